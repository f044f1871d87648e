import type { CrsTable } from './crs-table.js';
import { crsSignature } from './signature.js';
import { child, parseWkt, wktName } from './wkt.js';
import type { WktNode } from './wkt-node.js';
import { asWkt1 } from './wkt2.js';

/** A projected CRS that no registry has, as it can be computed all the same: its projection over a registered geographic one. */
export interface OwnCrs {
  /** Geographic CRS, `EPSG:n`. */
  readonly base: string;
  /** PROJ's words for the projection, without ellipsoid, datum and prime meridian. */
  readonly projection: string;
}

/**
 * How a CRS without a code is computed, from its text alone. Null where its datum is not that of a registered geographic CRS, its
 * method is not among those that are proven here against PROJ, or a parameter stands in it that the method does not have.
 */
export function ownCrsOf(wkt: string, table: CrsTable): OwnCrs | null {
  const parsed = parseWkt(wkt);
  const root = parsed && asWkt1(parsed);
  if (root?.keyword !== 'PROJCS') return null;
  const geographic = child(root, 'GEOGCS');
  const signature = geographic ? crsSignature(geographic) : null;
  const base = signature && table.codeOf(signature, wktName(geographic));
  const method = METHODS[plain(wktName(child(root, 'PROJECTION')) ?? '')];
  if (!base || !method) return null;
  const parameters = new Parameters(root, geographic!);
  const projection = method(parameters);
  if (projection === null || parameters.hasOthers) return null;
  if (!/\+proj=(stere|laea)\b/.test(projection) && turnsAxes(parsed!)) return null;
  const toMetre = parameters.metres;
  return { base: table.flatOf?.(base) ?? base, projection: projection + (toMetre === 1 ? '' : ` +to_meter=${toMetre}`) };
}

const plain = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]/g, '');

/** Whether x or y grow to the west or the south. */
function turnsAxes(node: WktNode): boolean {
  const isTurned = (axis: WktNode): boolean =>
    [...axis.children.map((c) => c.keyword), ...axis.values.slice(1).map((v) => String(v).toUpperCase())].some(
      (word) => word === 'SOUTH' || word === 'WEST',
    );
  return node.children.some((c) => (c.keyword === 'AXIS' ? isTurned(c) : turnsAxes(c)));
}

/** Lengths in metres, angles in degrees. What is asked for counts as known to the method. */
class Parameters {
  private readonly given = new Map<string, number>();
  private readonly asked = new Set<string>();
  readonly metres: number;
  private readonly degrees: number;

  constructor(root: WktNode, geographic: WktNode) {
    for (const c of root.children) if (c.keyword === 'PARAMETER') this.given.set(plain(String(c.values[0])), Number(c.values[1]));
    this.metres = Number(child(root, 'UNIT')?.values[1] ?? 1);
    const radians = Number(child(geographic, 'UNIT')?.values[1] ?? DEGREE);
    this.degrees = Math.abs(radians / DEGREE - 1) < 1e-9 ? 1 : radians / DEGREE;
  }

  private take(names: readonly string[]): number | undefined {
    for (const name of names) this.asked.add(name);
    return names.map((name) => this.given.get(name)).find((value) => value !== undefined);
  }
  has(name: string): boolean {
    return this.given.has(name);
  }
  angle(...names: readonly string[]): number {
    return (this.take(names) ?? 0) * this.degrees;
  }
  scale(): number {
    return this.take(['scalefactor']) ?? 1;
  }
  /** The centre and the false origin that all methods have. */
  origin(): string {
    return `+lon_0=${this.angle('centralmeridian', 'longitudeofcenter', 'longitudeoforigin')} +x_0=${this.length('falseeasting')} +y_0=${this.length('falsenorthing')}`;
  }
  latitude(): number {
    return this.angle('latitudeoforigin', 'latitudeofcenter');
  }
  private length(name: string): number {
    return (this.take([name]) ?? 0) * this.metres;
  }
  /** Something is asked of the projection that the method does not have, or a number is none. */
  get hasOthers(): boolean {
    return [...this.given].some(([name, value]) => !Number.isFinite(value) || (value !== 0 && !this.asked.has(name)));
  }
}

const DEGREE = 0.0174532925199433;
const POLE = 90;

type Method = (p: Parameters) => string | null;

const conformalConic: Method = (p) => {
  const [first, second] = [p.angle('standardparallel1'), p.angle('standardparallel2')];
  const latitude = p.latitude();
  const parallels = p.has('standardparallel1')
    ? `+lat_1=${first} +lat_2=${p.has('standardparallel2') ? second : first}`
    : `+lat_1=${latitude} +lat_2=${latitude}`;
  return `+proj=lcc ${parallels} +lat_0=${latitude} +k_0=${p.scale()} ${p.origin()}`;
};
const mercator: Method = (p) => {
  const parallel = p.angle('standardparallel1');
  if (p.latitude() !== 0) return null;
  return parallel === 0
    ? `+proj=merc +k_0=${p.scale()} ${p.origin()}`
    : p.scale() === 1
      ? `+proj=merc +lat_ts=${parallel} ${p.origin()}`
      : null;
};
/** Around a pole. A latitude of origin that is no pole is the parallel that is true to length, as OGC 01-009 writes variant B. */
const polar: Method = (p) => {
  const latitude = p.latitude();
  if (Math.abs(latitude) === POLE) return `+proj=stere +lat_0=${latitude} +k_0=${p.scale()} ${p.origin()}`;
  if (latitude === 0 || p.scale() !== 1) return null;
  return `+proj=stere +lat_0=${Math.sign(latitude) * POLE} +lat_ts=${latitude} ${p.origin()}`;
};
const polarAt =
  (pole: number): Method =>
  (p) => {
    const parallel = p.angle('standardparallel1');
    return parallel === 0 ? null : `+proj=stere +lat_0=${pole} +lat_ts=${parallel} ${p.origin()}`;
  };
const twoParallels =
  (name: string): Method =>
  (p) =>
    `+proj=${name} +lat_1=${p.angle('standardparallel1')} +lat_2=${p.angle('standardparallel2')} +lat_0=${p.latitude()} ${p.origin()}`;
const centred =
  (name: string): Method =>
  (p) =>
    `+proj=${name} +lat_0=${p.latitude()} ${p.origin()}`;
const whole =
  (name: string): Method =>
  (p) =>
    `+proj=${name} ${p.origin()}`;
const scaled =
  (name: string): Method =>
  (p) =>
    `+proj=${name} +lat_0=${p.latitude()} +k_0=${p.scale()} ${p.origin()}`;

/** By the names of OGC 01-009 and of the common dialect of `.prj`. */
const METHODS: Readonly<Record<string, Method>> = {
  transversemercator: scaled('tmerc'),
  gausskruger: scaled('tmerc'),
  lambertconformalconic: conformalConic,
  lambertconformalconic1sp: conformalConic,
  lambertconformalconic2sp: conformalConic,
  mercator,
  mercator1sp: mercator,
  mercator2sp: mercator,
  polarstereographic: polar,
  stereographicnorthpole: polarAt(POLE),
  stereographicsouthpole: polarAt(-POLE),
  stereographic: (p) => (Math.abs(p.latitude()) === POLE ? polar(p) : null),
  obliquestereographic: scaled('sterea'),
  doublestereographic: scaled('sterea'),
  albers: twoParallels('aea'),
  albersconicequalarea: twoParallels('aea'),
  equidistantconic: twoParallels('eqdc'),
  lambertazimuthalequalarea: centred('laea'),
  azimuthalequidistant: centred('aeqd'),
  polyconic: centred('poly'),
  bonne: (p) => `+proj=bonne +lat_1=${p.angle('standardparallel1')} +lat_0=${p.latitude()} ${p.origin()}`,
  platecarree: whole('eqc'),
  equidistantcylindrical: (p) => `+proj=eqc +lat_ts=${p.angle('standardparallel1')} ${p.origin()}`,
  sinusoidal: whole('sinu'),
  mollweide: whole('moll'),
  equalearth: whole('eqearth'),
  eckertvi: whole('eck6'),
  robinson: whole('robin'),
  cylindricalequalarea: (p) => `+proj=cea +lat_ts=${p.angle('standardparallel1')} ${p.origin()}`,
};
