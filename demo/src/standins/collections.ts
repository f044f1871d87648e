import { seeded } from '../random.js';
import { areas, lines, points, toDegrees, type Features } from '../shapes.js';

interface GeoFeature {
  readonly type: 'Feature';
  readonly id: number;
  readonly geometry: { readonly type: string; readonly coordinates: unknown };
  readonly properties: Readonly<Record<string, unknown>>;
}

/** One thing that the stand-ins offer: as records, and as a picture. */
export interface Collection {
  readonly id: string;
  readonly title: string;
  readonly description: string;
  readonly keywords: readonly string[];
  readonly publisher: string;
  readonly updated: string;
  readonly often: string;
  readonly access: 'public' | 'members';
  readonly colour: string;
  readonly features: readonly GeoFeature[];
  /** In metres of UTM zone 24N, ring by ring. */
  readonly metres: Features;
  /** West, south, east, north in degrees. */
  readonly box: readonly [number, number, number, number];
}

type About = Pick<Collection, 'id' | 'title' | 'description' | 'keywords' | 'publisher' | 'updated' | 'often' | 'access' | 'colour'>;

const GEOMETRY = { point: 'Point', line: 'LineString', area: 'Polygon' } as const;

/** Made of the same invented bay as the demo's data. */
function collectionOf(about: About, metres: Features): Collection {
  const degrees = toDegrees(metres);
  const round = (v: number): number => Math.round(v * 1e7) / 1e7;
  const features = degrees.shapes.map((shape, i): GeoFeature => {
    const parts = shape.map((part) => part.map(([x, y]) => [round(x), round(y)] as const));
    // Rings run counter-clockwise in GeoJSON (RFC 7946, 3.1.6); shapefiles have them the other way.
    const coordinates = metres.kind === 'point' ? parts[0]![0] : metres.kind === 'line' ? parts[0] : parts.map((r) => [...r].reverse());
    const properties = Object.fromEntries(metres.fields.map((f, k) => [f.name, metres.rows[i]![k] ?? null]));
    return { type: 'Feature', id: i + 1, geometry: { type: GEOMETRY[metres.kind], coordinates }, properties };
  });
  const all = degrees.shapes.flat(2);
  const [xs, ys] = [all.map((p) => p[0]), all.map((p) => p[1])];
  const least = (values: number[]): number => values.reduce((a, b) => Math.min(a, b));
  const most = (values: number[]): number => values.reduce((a, b) => Math.max(a, b));
  return { ...about, features, metres, box: [least(xs), least(ys), most(xs), most(ys)] };
}

const OFFICE = 'Ellisande Hydrographic Office';
const WARDENS = 'Reef Wardens of Ellisande';

const PROTECTED_BEDS: About = {
  id: 'protected_beds',
  title: 'Protected beds',
  description: 'Beds of seagrass that nobody may anchor in, as the bylaw of the bay has them.',
  keywords: ['seagrass', 'protection'],
  publisher: WARDENS,
  updated: '2026-06-18T12:00:00Z',
  often: 'yearly',
  access: 'public',
  colour: '#3f8f5f',
};

/** The bylaw was changed: seven beds more. */
export const laterBeds = (): Collection =>
  collectionOf({ ...PROTECTED_BEDS, updated: '2026-11-15T09:00:00Z' }, areas(seeded(20_261_115), 35, 260, 'bed_no'));

export function openCollections(): Collection[] {
  const random = seeded(20_261_130);
  return [
    collectionOf(
      {
        id: 'harbour_lights',
        title: 'Harbour lights',
        description: 'Lights and beacons of the bay, with the depth of water at their foot.',
        keywords: ['navigation', 'lights'],
        publisher: OFFICE,
        updated: '2026-10-02T08:00:00Z',
        often: 'monthly',
        access: 'public',
        colour: '#7a4ab0',
      },
      points(random, 36, 'light_no'),
    ),
    collectionOf(PROTECTED_BEDS, areas(random, 28, 260, 'bed_no')),
    collectionOf(
      {
        id: 'ferry_tracks',
        title: 'Ferry tracks',
        description: 'Tracks of the ferry over a summer.',
        keywords: ['traffic'],
        publisher: OFFICE,
        updated: '2025-09-01T00:00:00Z',
        often: 'not planned',
        access: 'public',
        colour: '#b0622f',
      },
      lines(random, 18, 'track_no'),
    ),
  ];
}

export const memberCollections = (): Collection[] => [
  collectionOf(
    {
      id: 'nesting_sites',
      title: 'Nesting sites',
      description: 'Nests of terns, shown to members of the wardens only.',
      keywords: ['birds'],
      publisher: WARDENS,
      updated: '2026-07-01T00:00:00Z',
      often: 'yearly',
      access: 'members',
      colour: '#a33c5e',
    },
    points(seeded(7), 22, 'nest_no'),
  ),
];

/** Many points, made when they are first asked for: for measuring. */
export function soundings(count: number): Collection {
  return collectionOf(
    {
      id: 'soundings',
      title: 'Soundings',
      description: `${count} depths, for measuring how fast they are copied.`,
      keywords: ['depth'],
      publisher: OFFICE,
      updated: '2026-11-01T00:00:00Z',
      often: 'daily',
      access: 'public',
      colour: '#35618e',
    },
    points(seeded(99), count, 'sounding'),
  );
}
