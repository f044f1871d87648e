import { done, fail, type Result } from '../problem.js';
import type { FieldProfile } from './profile.js';
import {
  CHECKS,
  ELEMENTS,
  worstOf,
  type CheckCode,
  type CheckExample,
  type CheckResult,
  type Element,
  type QualityCheck,
} from './quality-check.js';

/** Which data a sheet speaks of: what its files hold. */
export interface DataSeen {
  /** `sha256:…` of the data's files (`Fingerprint.hash`). */
  readonly hash: string;
  /** Of the data's files together, and of the newest: while both are the same, nothing is read again. */
  readonly bytes: number;
  readonly modifiedMs: number;
}

export const FITNESSES = ['fit', 'limited', 'unfit'] as const;
export type Fitness = (typeof FITNESSES)[number];

/** What a person says of a dataset, element by element. */
export interface Review {
  readonly elements: Partial<Readonly<Record<Element, { readonly fitness: Fitness; readonly words: string }>>>;
  /** As stated, in the reviewer's words. */
  readonly accuracy: string;
  readonly fitFor: string;
  readonly name: string;
  /** Day, as `2026-03-14`. */
  readonly date: string;
  /** The data that the reviewer saw. */
  readonly of: DataSeen;
}

/** Data of a linked folder, whose sheets stand in the project: by the link's name and the path of its main file below it. */
interface LinkedData {
  readonly link: string;
  readonly path: string;
}

/** What was computed of the data that is named. */
interface Computed {
  readonly at: string;
  readonly of: DataSeen;
  readonly checks: readonly QualityCheck[];
  readonly fields: readonly FieldProfile[];
}

/** What is known of one dataset, or one table of a geodatabase. */
export interface QualitySheet {
  /** Null: the sheet stands beside its data. */
  readonly linked: LinkedData | null;
  /** Null: the file is the dataset. */
  readonly table: string | null;
  readonly computed: Computed | null;
  readonly review: Review | null;
}

/** The file in the root of a project for data of linked folders, where nothing is written. */
export const LINKED_SHEETS = 'quality-of-links.json';
/** The file beside the data: `NAME.quality.json`, behind the whole name of the main file. */
export const SHEET_ENDING = '.quality.json';
const SHEET_FORMAT = 'rootmap-quality/1';

/** A line a sheet: a geodatabase may have thousands of tables. */
export const writeSheets = (sheets: readonly QualitySheet[]): string =>
  `{"format": ${JSON.stringify(SHEET_FORMAT)}, "sheets": [\n${sheets.map((s) => JSON.stringify(s)).join(',\n')}\n]}\n`;

type Json = Readonly<Record<string, unknown>>;
const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);
const text = (v: unknown): string => (typeof v === 'string' ? v.slice(0, 20_000) : '');
const number = (v: unknown): number => (typeof v === 'number' && Number.isFinite(v) ? v : 0);

/** Reads a file of sheets. What is edited into nonsense is told; what is only unknown is left out. */
export function parseSheets(file: string, json: string): Result<readonly QualitySheet[]> {
  let value: unknown;
  try {
    value = JSON.parse(json.replace(/^\uFEFF/, ''));
  } catch {
    return fail({ code: 'wrong-shape', file, member: 'the whole', expected: 'JSON' });
  }
  if (!isObject(value) || value['format'] !== SHEET_FORMAT)
    return fail({ code: 'wrong-shape', file, member: 'format', expected: `"${SHEET_FORMAT}"` });
  if (!Array.isArray(value['sheets'])) return fail({ code: 'wrong-shape', file, member: 'sheets', expected: 'a list' });
  return done(value['sheets'].filter(isObject).map(sheetOf));
}

function sheetOf(s: Json): QualitySheet {
  const { table, computed, review, linked } = s;
  return {
    linked: isObject(linked) ? { link: text(linked['link']), path: text(linked['path']) } : null,
    table: typeof table === 'string' ? table : null,
    computed:
      isObject(computed) && isObject(computed['of'])
        ? {
            at: text(computed['at']),
            of: seenOf(computed['of']),
            checks: listOf(computed['checks']).flatMap(checkOf),
            fields: listOf(computed['fields']).map(profileOf),
          }
        : null,
    review: isObject(review) && isObject(review['of']) ? reviewOf(review, review['of']) : null,
  };
}

const listOf = (v: unknown): Json[] => (Array.isArray(v) ? v.filter(isObject) : []);

function profileOf(f: Json): FieldProfile {
  const { histogram: h } = f;
  const isHistogram =
    isObject(h) && Array.isArray(h['counts']) && h['counts'].length <= 1000 && h['counts'].every((n) => typeof n === 'number' && n >= 0);
  return {
    name: text(f['name']),
    type: text(f['type']),
    filled: number(f['filled']),
    of: number(f['of']),
    histogram: isHistogram
      ? { from: number(h['from']), to: number(h['to']), counts: h['counts'] as number[], stride: Math.max(1, number(h['stride'])) }
      : null,
  };
}

const seenOf = (of: Json): DataSeen => ({ hash: text(of['hash']), bytes: number(of['bytes']), modifiedMs: number(of['modifiedMs']) });

function checkOf(c: Json): QualityCheck[] {
  const code = c['code'] as CheckCode;
  const result = c['result'] as CheckResult;
  if (typeof code !== 'string' || !Object.hasOwn(CHECKS, code) || !['pass', 'note', 'fail'].includes(result)) return [];
  const examples = Array.isArray(c['examples']) ? c['examples'].filter(isObject).map(exampleOf) : [];
  return [
    { code, element: CHECKS[code].element, result, count: number(c['count']), of: number(c['of']), detail: text(c['detail']), examples },
  ];
}

function exampleOf(e: Json): CheckExample {
  const { record, at } = e;
  const isPlace = Array.isArray(at) && at.length === 2 && at.every((n) => typeof n === 'number' && Number.isFinite(n));
  return { record: typeof record === 'number' ? record : null, at: isPlace ? (at as [number, number]) : null, what: text(e['what']) };
}

function reviewOf(r: Json, of: Json): Review {
  const elements: Review['elements'] = isObject(r['elements'])
    ? Object.fromEntries(
        Object.entries(r['elements']).flatMap(([element, said]) =>
          Object.hasOwn(ELEMENTS, element) && isObject(said) && FITNESSES.includes(said['fitness'] as Fitness)
            ? [[element, { fitness: said['fitness'] as Fitness, words: text(said['words']) }]]
            : [],
        ),
      )
    : {};
  return {
    elements,
    accuracy: text(r['accuracy']),
    fitFor: text(r['fitFor']),
    name: text(r['name']),
    date: text(r['date']),
    of: seenOf(of),
  };
}

/** Whether two sheets speak of the same dataset. */
export const isSameSubject = (a: Pick<QualitySheet, 'table' | 'linked'>, b: Pick<QualitySheet, 'table' | 'linked'>): boolean =>
  a.table === b.table && a.linked?.link === b.linked?.link && a.linked?.path === b.linked?.path;

/** How a sheet stands to the data that is there now. `none`: nobody looked. */
export type SheetState = 'none' | 'computed' | 'reviewed' | 'out-of-date';

/** @param now what the data's files hold now */
export function stateOfSheet(sheet: QualitySheet | null, now: Pick<DataSeen, 'hash'>): SheetState {
  const of = sheet?.review?.of ?? sheet?.computed?.of;
  if (!of) return 'none';
  if (of.hash !== now.hash) return 'out-of-date';
  return sheet?.review ? 'reviewed' : 'computed';
}

/** The worst that was found in each element; elements that no check is about are left out. */
export function byElement(checks: readonly QualityCheck[]): Partial<Record<Element, CheckResult>> {
  const found: Partial<Record<Element, CheckResult>> = {};
  for (const element of Object.keys(ELEMENTS) as Element[]) {
    const own = checks.filter((c) => c.element === element);
    if (own.length > 0) found[element] = worstOf(own);
  }
  return found;
}
