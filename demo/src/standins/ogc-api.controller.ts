import { Controller, Get, Headers, HttpException, Inject, Param, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { SWITCHES } from './charts.controller.js';
import { laterBeds, memberCollections, openCollections, soundings, type Collection } from './collections.js';
import { MEMBER, type Switches } from './switches.js';

export const SOUNDINGS = Symbol('how many soundings');

const CRS84 = 'http://www.opengis.net/def/crs/OGC/1.3/CRS84';
const DEFAULT_LIMIT = 10;
const MOST = 10_000;
const DATA_REL = 'data';

type Query_ = Readonly<Record<string, string | undefined>>;

/** OGC API Features (OGC 17-069r4), with a catalogue by OGC API Records (OGC 20-004r1): `library` is open, `members` is not. */
abstract class Api {
  protected abstract readonly collections: readonly Collection[];
  protected abstract readonly path: string;
  protected abstract readonly title: string;
  protected readonly hasCatalogue: boolean = false;

  protected base(request: Request): string {
    return `${request.protocol}://${request.get('host')}/${this.path}`;
  }

  protected landing(request: Request) {
    const base = this.base(request);
    return {
      title: this.title,
      description: 'A stand-in that ships with the demo: its data are invented.',
      links: [
        { href: base, rel: 'self', type: 'application/json' },
        { href: `${base}/conformance`, rel: 'conformance', type: 'application/json' },
        { href: `${base}/collections`, rel: DATA_REL, type: 'application/json' },
      ],
    };
  }

  protected conformance() {
    return {
      conformsTo: [
        'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/core',
        'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/geojson',
        ...(this.hasCatalogue ? ['http://www.opengis.net/spec/ogcapi-records-1/1.0/conf/record-core'] : []),
      ],
    };
  }

  protected describe(c: Collection, base: string) {
    return {
      id: c.id,
      title: c.title,
      description: c.description,
      keywords: c.keywords,
      attribution: `© ${c.publisher}`,
      publisher: c.publisher,
      updated: c.updated,
      accrualPeriodicity: c.often,
      accessRights: c.access === 'public' ? 'everybody' : 'members of the wardens',
      extent: { spatial: { bbox: [c.box], crs: CRS84 } },
      itemType: 'feature',
      crs: [CRS84],
      links: [
        { href: `${base}/collections/${c.id}`, rel: 'self', type: 'application/json' },
        { href: `${base}/collections/${c.id}/items`, rel: 'items', type: 'application/geo+json' },
        {
          href: 'https://creativecommons.org/licenses/by/4.0/',
          rel: 'license',
          title: 'Creative Commons Attribution 4.0',
          type: 'text/html',
        },
      ],
    };
  }

  protected list(request: Request) {
    const base = this.base(request);
    const catalogue = {
      id: 'catalogue',
      title: 'What the office has',
      itemType: 'record',
      links: [{ href: `${base}/collections/catalogue/items`, rel: 'items', type: 'application/geo+json' }],
    };
    return {
      links: [{ href: `${base}/collections`, rel: 'self', type: 'application/json' }],
      collections: [...this.collections.map((c) => this.describe(c, base)), ...(this.hasCatalogue ? [catalogue] : [])],
    };
  }

  protected known(id: string): Collection {
    const found = this.collections.find((c) => c.id === id);
    if (!found) throw new HttpException({ code: 'NotFound', description: `There is no collection ${id}.` }, 404);
    return found;
  }

  protected page(request: Request, id: string, query: Query_) {
    const all = within(this.known(id).features, query['bbox']);
    return pageOf(all, `${this.base(request)}/collections/${id}/items`, query);
  }
}

function number(value: string | undefined, otherwise: number, least: number): number {
  if (value === undefined) return otherwise;
  const n = Number(value);
  if (!Number.isInteger(n) || n < least)
    throw new HttpException({ code: 'InvalidParameterValue', description: `"${value}" cannot be used.` }, 400);
  return n;
}

function pageOf(all: readonly object[], address: string, query: Query_) {
  const limit = Math.min(MOST, number(query['limit'], DEFAULT_LIMIT, 1));
  const offset = number(query['offset'], 0, 0);
  const features = all.slice(offset, offset + limit);
  const at = (from: number): string => {
    const parameters = new URLSearchParams({
      ...(query['bbox'] ? { bbox: query['bbox'] } : {}),
      ...(query['q'] ? { q: query['q'] } : {}),
      limit: String(limit),
      offset: String(from),
    });
    return `${address}?${parameters.toString()}`;
  };
  const links = [{ href: at(offset), rel: 'self', type: 'application/geo+json' }];
  if (offset + limit < all.length) links.push({ href: at(offset + limit), rel: 'next', type: 'application/geo+json' });
  return {
    type: 'FeatureCollection',
    numberMatched: all.length,
    numberReturned: features.length,
    timeStamp: new Date().toISOString(),
    links,
    features,
  };
}

/** Features that have a corner in a box in degrees. */
function within(features: Collection['features'], bbox: string | undefined): Collection['features'] {
  if (bbox === undefined) return features;
  const [w, s, e, n] = bbox.split(',').map(Number);
  if ([w, s, e, n].some((v) => v === undefined || !Number.isFinite(v)))
    throw new HttpException({ code: 'InvalidParameterValue', description: 'bbox has four numbers.' }, 400);
  const isIn = (v: unknown): boolean =>
    Array.isArray(v) && (typeof v[0] === 'number' ? v[0] >= w! && v[0] <= e! && v[1] >= s! && v[1] <= n! : v.some(isIn));
  return features.filter((f) => isIn(f.geometry.coordinates));
}

@Controller('library')
export class LibraryController extends Api {
  protected readonly path = 'library';
  protected readonly title = 'Library of the Ellisande Hydrographic Office';
  protected override readonly hasCatalogue = true;
  private readonly first: readonly Collection[];
  private readonly later: readonly Collection[];

  constructor(
    @Inject(SOUNDINGS) count: number,
    @Inject(SWITCHES) private readonly switches: Switches,
  ) {
    super();
    this.first = [...openCollections(), ...(count > 0 ? [soundings(count)] : [])];
    const beds = laterBeds();
    this.later = this.first.map((c) => (c.id === beds.id ? beds : c));
  }

  protected get collections(): readonly Collection[] {
    return this.switches.newEdition ? this.later : this.first;
  }

  @Get()
  override landing(@Req() request: Request) {
    return super.landing(request);
  }
  @Get('conformance')
  override conformance() {
    return super.conformance();
  }
  @Get('collections')
  override list(@Req() request: Request) {
    return super.list(request);
  }
  @Get('collections/:id')
  one(@Req() request: Request, @Param('id') id: string) {
    if (id === 'catalogue') return this.list(request).collections.at(-1);
    return this.describe(this.known(id), this.base(request));
  }
  @Get('collections/:id/items')
  items(@Req() request: Request, @Param('id') id: string, @Query() query: Query_, @Res({ passthrough: true }) response: Response) {
    response.type('application/geo+json');
    if (id !== 'catalogue') return this.page(request, id, query);
    return pageOf(
      withWords(recordsOf(this.collections, this.base(request), `${request.protocol}://${request.get('host')}`), query['q']),
      `${this.base(request)}/collections/catalogue/items`,
      query,
    );
  }
  @Get('collections/:id/items/:feature')
  feature(@Param('id') id: string, @Param('feature') feature: string): object {
    const found = this.known(id).features.find((f) => String(f.id) === feature);
    if (!found) throw new HttpException({ code: 'NotFound', description: 'There is no such feature.' }, 404);
    return found;
  }
}

/** Records in whose texts one of the terms stands, commas between them (OGC 20-004r1, the parameter `q`). */
function withWords(records: readonly object[], q: string | undefined): readonly object[] {
  const terms = (q ?? '')
    .toLowerCase()
    .split(',')
    .map((t) => t.trim())
    .filter(Boolean);
  return terms.length === 0 ? records : records.filter((r) => terms.some((t) => JSON.stringify(r).toLowerCase().includes(t)));
}

function recordsOf(collections: readonly Collection[], base: string, host: string): object[] {
  const record = (
    id: string,
    title: string,
    c: Pick<Collection, 'box' | 'description' | 'keywords' | 'updated' | 'publisher'>,
    links: object[],
  ) => ({
    type: 'Feature',
    id,
    conformsTo: ['http://www.opengis.net/spec/ogcapi-records-1/1.0/conf/record-core'],
    time: null,
    geometry: {
      type: 'Polygon',
      coordinates: [
        [
          [c.box[0], c.box[1]],
          [c.box[2], c.box[1]],
          [c.box[2], c.box[3]],
          [c.box[0], c.box[3]],
          [c.box[0], c.box[1]],
        ],
      ],
    },
    properties: {
      type: 'dataset',
      title,
      description: c.description,
      keywords: c.keywords,
      updated: c.updated,
      contacts: [{ organization: c.publisher, roles: ['publisher'] }],
      license: 'CC-BY-4.0',
      accessRights: 'everybody',
    },
    links,
  });
  return [
    ...collections.map((c) =>
      record(`record_${c.id}`, `${c.title} (records)`, c, [
        { href: `${base}/collections/${c.id}/items`, rel: 'items', type: 'application/geo+json' },
      ]),
    ),
    record(
      'record_beacons',
      'Islet beacons (file)',
      { ...collections[0]!, description: 'Beacons of the outer islets, as a shapefile in an archive.', keywords: ['navigation'] },
      [{ href: `${host}/downloads/islet_beacons.zip`, rel: 'enclosure', type: 'application/zip' }],
    ),
  ];
}

/** The same for members: name and password by RFC 7617. */
@Controller('members')
export class MembersController extends Api {
  protected readonly path = 'members';
  protected readonly title = 'Members of the Reef Wardens';
  protected readonly collections = memberCollections();

  private check(authorization: string | undefined, response: Response): void {
    const wanted = `Basic ${Buffer.from(`${MEMBER.name}:${MEMBER.password}`).toString('base64')}`;
    if (authorization === wanted) return;
    response.setHeader('www-authenticate', 'Basic realm="members", charset="UTF-8"');
    throw new HttpException({ code: 'Unauthorized', description: 'Members only.' }, 401);
  }

  @Get()
  start(@Req() request: Request, @Headers('authorization') who: string | undefined, @Res({ passthrough: true }) response: Response) {
    this.check(who, response);
    return this.landing(request);
  }
  @Get('conformance')
  conforms(@Headers('authorization') who: string | undefined, @Res({ passthrough: true }) response: Response) {
    this.check(who, response);
    return this.conformance();
  }
  @Get('collections')
  all(@Req() request: Request, @Headers('authorization') who: string | undefined, @Res({ passthrough: true }) response: Response) {
    this.check(who, response);
    return this.list(request);
  }
  @Get('collections/:id')
  one(
    @Req() request: Request,
    @Param('id') id: string,
    @Headers('authorization') who: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ) {
    this.check(who, response);
    return this.describe(this.known(id), this.base(request));
  }
  @Get('collections/:id/items')
  items(
    @Req() request: Request,
    @Param('id') id: string,
    @Query() query: Query_,
    @Headers('authorization') who: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ) {
    this.check(who, response);
    response.type('application/geo+json');
    return this.page(request, id, query);
  }
}
