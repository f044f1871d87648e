import { licenceNamed, licenceWithin } from './licences.js';
import { PASSAGE_KINDS, passagesOf, type PassageKind, type StatedPassage } from './passage.js';

/** Where a dataset came from, as its origin record tells. Empty text: not told. */
export interface Origin {
  readonly title: string;
  readonly publisher: string;
  /** The page that offers it, and the address of the file. */
  readonly page: string;
  readonly address: string;
  /** Day, as `2026-03-14`. */
  readonly fetched: string;
  /** Name of a known licence, or free text. */
  readonly licence: string;
  readonly attribution: string;
  readonly isReobtainable: boolean;
  /** What the publisher states, to be held against what is found. */
  readonly statedCrs: string;
  readonly statedUnits: string;
  /** Scale that it was digitised at or made for, as `1:10 000`. */
  readonly statedScale: string;
  /** Of what day or year the data is, in the publisher's words. */
  readonly statedDate: string;
  readonly disclaimer: string;
  readonly notes: string;
  /** Passages of notes that tell what is stated above; left out: none was taken over. */
  readonly passages?: readonly StatedPassage[] | undefined;
  /** What the server told of the file when it was fetched, to be asked for a newer one; left out: it was not fetched here. */
  readonly edition?: Edition | undefined;
}

/** What tells one edition of something from the next. Null: not told. */
export interface Edition {
  /** `ETag` and `Last-Modified` (RFC 9110, 8.8), as they came. */
  readonly etag: string | null;
  readonly modified: string | null;
  readonly bytes: number | null;
  readonly sha256: string | null;
  /** Of a collection of records: how many, and its own date. */
  readonly records: number | null;
  readonly updated: string | null;
  /** The part of a collection that was copied, in degrees: west, south, east, north; left out: all of it. */
  readonly degrees?: readonly number[];
}

export const EMPTY_ORIGIN: Origin = {
  title: '',
  publisher: '',
  page: '',
  address: '',
  fetched: '',
  licence: '',
  attribution: '',
  isReobtainable: true,
  statedCrs: '',
  statedUnits: '',
  statedScale: '',
  statedDate: '',
  disclaimer: '',
  notes: '',
};

/** A resource of a Frictionless Data Package (specs.frictionlessdata.io, data-resource); other members stay. */
export type Resource = Record<string, unknown>;
export interface DataPackage {
  readonly resources: readonly Resource[];
  readonly [member: string]: unknown;
}

const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const first = (value: unknown): Resource =>
  Array.isArray(value) && typeof value[0] === 'object' && value[0] !== null ? (value[0] as Resource) : {};

/** Reads a record; null: it is none. */
export function parseDataPackage(json: string): DataPackage | null {
  try {
    const value = JSON.parse(json) as unknown;
    const isPackage = typeof value === 'object' && value !== null && Array.isArray((value as { resources?: unknown }).resources);
    return isPackage ? (value as DataPackage) : null;
  } catch {
    return null; // damaged: told where it is shown, and never overwritten
  }
}

/** The origin of one resource; what it does not tell, its package does. */
export function originOf(resource: Resource, of: Partial<DataPackage> = {}): Origin {
  const source = first(resource['sources'] ?? of['sources']);
  const licence = first(resource['licenses'] ?? of['licenses']);
  return {
    title: text(resource['title']),
    publisher: text(resource['rootmap:publisher']) || text(source['title']),
    page: text(resource['rootmap:page']) || text(of['homepage']),
    address: text(source['path']),
    fetched: text(resource['rootmap:fetched']),
    licence: text(licence['name']) || text(licence['title']) || text(licence['path']),
    attribution: text(resource['rootmap:attribution']),
    isReobtainable: resource['rootmap:reobtainable'] !== false,
    statedCrs: text(resource['rootmap:statedCrs']),
    statedUnits: text(resource['rootmap:statedUnits']),
    statedScale: text(resource['rootmap:statedScale']),
    statedDate: text(resource['rootmap:statedDate']),
    disclaimer: text(resource['rootmap:disclaimer']),
    notes: text(resource['rootmap:notes']),
    ...somePassages(passagesOf(resource['rootmap:passages'])),
    ...editionOf(resource['rootmap:edition']),
  };
}

const somePassages = (passages: readonly StatedPassage[]): Pick<Origin, 'passages'> => (passages.length > 0 ? { passages } : {});

function editionOf(value: unknown): { edition?: Edition } {
  if (typeof value !== 'object' || value === null) return {};
  const of = value as Record<string, unknown>;
  const word = (name: string): string | null => (typeof of[name] === 'string' && of[name] !== '' ? of[name] : null);
  const number = (name: string): number | null => (typeof of[name] === 'number' && of[name] >= 0 ? of[name] : null);
  return {
    edition: {
      etag: word('etag'),
      modified: word('modified'),
      bytes: number('bytes'),
      sha256: word('sha256'),
      records: number('records'),
      updated: word('updated'),
      ...degreesOf(of['degrees']),
    },
  };
}

const degreesOf = (value: unknown): { degrees?: readonly number[] } =>
  Array.isArray(value) && value.length === 4 && value.every((v) => Number.isFinite(v)) ? { degrees: value as number[] } : {};

/** A resource with an origin written into it; members that are not ours stay. */
export function withOrigin(resource: Resource, origin: Origin): Resource {
  const known = licenceNamed(origin.licence);
  const members: Record<string, unknown> = {
    title: origin.title || undefined,
    sources:
      origin.publisher || origin.address
        ? [{ title: origin.publisher || origin.address, ...(origin.address ? { path: origin.address } : {}) }]
        : undefined,
    licenses: known
      ? [{ name: known.name, title: known.title, path: known.path }]
      : origin.licence
        ? [{ title: origin.licence }]
        : undefined,
    'rootmap:publisher': origin.publisher || undefined,
    'rootmap:page': origin.page || undefined,
    'rootmap:fetched': origin.fetched || undefined,
    'rootmap:attribution': origin.attribution || undefined,
    'rootmap:reobtainable': origin.isReobtainable ? undefined : false,
    'rootmap:statedCrs': origin.statedCrs || undefined,
    'rootmap:statedUnits': origin.statedUnits || undefined,
    'rootmap:statedScale': origin.statedScale || undefined,
    'rootmap:statedDate': origin.statedDate || undefined,
    'rootmap:passages': origin.passages?.length ? origin.passages : undefined,
    'rootmap:disclaimer': origin.disclaimer || undefined,
    'rootmap:notes': origin.notes || undefined,
    'rootmap:edition': origin.edition,
  };
  const merged: Resource = { ...resource };
  for (const [key, value] of Object.entries(members)) {
    if (value === undefined) delete merged[key];
    else merged[key] = value;
  }
  return merged;
}

/** Which member of an origin a passage is about. */
const MEMBER = {
  units: 'statedUnits',
  crs: 'statedCrs',
  scale: 'statedScale',
  date: 'statedDate',
  limits: 'disclaimer',
  licence: 'licence',
} as const satisfies Record<PassageKind, keyof Origin>;

/** Something that a publisher states; `note` names where it is written, null: it was typed in. */
export interface StatedFact {
  readonly about: PassageKind;
  readonly words: string;
  readonly note: string | null;
}

/** All that is stated of data in an origin. */
export const statedFacts = (origin: Origin): StatedFact[] =>
  PASSAGE_KINDS.flatMap((about) => {
    const words = origin[MEMBER[about]];
    const notes = [...new Set((origin.passages ?? []).filter((p) => p.about === about).map((p) => p.note))];
    return words === '' ? [] : [{ about, words, note: notes.length > 0 ? notes.join(', ') : null }];
  });

/** An origin that states what a passage says, in its words, and where; a licence that is known by its name. What is there twice stays once. */
export function withPassage(origin: Origin, passage: StatedPassage): Origin {
  const words = (passage.about === 'licence' ? licenceWithin(passage.words)?.name : undefined) ?? passage.words;
  const member = MEMBER[passage.about];
  const before = origin[member];
  const isMore = passage.about === 'limits' && before !== '' && !before.includes(words); // limits add up
  const others = (origin.passages ?? []).filter(
    (p) => !isSamePassage(p, passage) && (passage.about === 'limits' || p.about !== passage.about),
  );
  return { ...origin, [member]: isMore ? `${before}\n${words}` : before.includes(words) ? before : words, passages: [...others, passage] };
}

/** Takes a passage away again, and what the origin states by it. */
export function withoutPassage(origin: Origin, passage: StatedPassage): Origin {
  const { [MEMBER[passage.about]]: stated } = origin;
  const words = (passage.about === 'licence' ? licenceWithin(passage.words)?.name : undefined) ?? passage.words;
  const left = stated
    .split('\n')
    .filter((line) => line !== words)
    .join('\n');
  return {
    ...origin,
    [MEMBER[passage.about]]: stated === words ? '' : left,
    passages: (origin.passages ?? []).filter((p) => !isSamePassage(p, passage)),
  };
}

const isSamePassage = (a: StatedPassage, b: StatedPassage): boolean =>
  a.about === b.about && a.note === b.note && a.at === b.at && a.words === b.words;

/** A Frictionless resource name: lower case, with dashes, from a file's name. */
export const resourceName = (path: string): string =>
  path
    .slice(path.lastIndexOf('/') + 1)
    .replace(/\.[^.]*$/, '')
    .toLowerCase()
    .replace(/[^a-z0-9._-]+/g, '-')
    .replace(/^-+|-+$/g, '') || 'data';

export interface OriginFinding {
  readonly code: 'no-origin' | 'no-licence';
  readonly message: string;
}

/** What a person should know of an origin. */
export function originFindings(origin: Origin | null): OriginFinding[] {
  const findings: OriginFinding[] = [];
  if (!origin || (origin.publisher === '' && origin.address === '' && origin.page === ''))
    findings.push({ code: 'no-origin', message: 'nobody wrote down where it came from' });
  if (origin && origin.licence === '')
    findings.push({ code: 'no-licence', message: 'no licence is told, so nobody knows what may be done with it' });
  return findings;
}

/** What a map has to say of its data: each publisher once, with titles, licence and what it asks to be told. */
export function attributionText(origins: readonly Origin[]): string {
  const lines = new Set<string>();
  for (const o of origins) {
    const known = licenceNamed(o.licence);
    const line = o.attribution || [o.publisher && `© ${o.publisher}`, known?.name ?? o.licence].filter(Boolean).join(', ');
    if (line !== '') lines.add(line);
  }
  return [...lines].sort((a, b) => a.localeCompare(b, 'en')).join('; ');
}
