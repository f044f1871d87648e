import { existsSync } from 'node:fs';
import type { Edition, OnProgress } from '@rootmap/core';
import { ProblemError } from '@rootmap/core';
import { dirname, join } from '../disk/native-path.js';
import { closeSync, ftruncateSync, mkdirSync, openSync, readFileSync, writeFileSync, writeSync } from '../disk/files.js';
import type { SignIn, Wire } from '../wire/wire.js';
import { pagesOf } from './find-service.js';
import { askJson } from './read-json.js';

export interface CopyOrder {
  /** Address of the items of a collection. */
  readonly layer: string;
  readonly service: string;
  /** West, south, east, north in degrees; null: all. */
  readonly degrees: readonly number[] | null;
  /** Where the records are gathered: a folder of this order alone, so that a copy that was cut short goes on. */
  readonly folder: string;
  readonly name: string;
  readonly signIn: SignIn | null;
}

export interface Copied {
  readonly file: string;
  readonly name: string;
  readonly came: number;
  readonly told: number | null;
  readonly resumedAt: number;
  readonly edition: Edition;
}

/** What was gathered so far: whole pages only. */
interface State {
  readonly layer: string;
  readonly degrees: readonly number[] | null;
  readonly next: string | null;
  readonly came: number;
  readonly bytes: number;
  readonly told: number | null;
  readonly startedMs: number;
}

const PAGE = 2000;
const SMALLEST_PAGE = 50;
const MOST_PAGE_BYTES = 64 * 1024 * 1024;
/** What was begun longer ago is begun anew: the server has moved on. */
const RESUMABLE_MS = 24 * 60 * 60 * 1000;
/** All of it came, and could not be brought in: for a moment it need not come once more. */
const WHOLE_MS = 10 * 60 * 1000;
const PAGE_LIMIT_MS = 30_000;

/**
 * Gathers the records of a collection, page by page, in a file of GeoJSON records (RFC 8142 without its separators: one a
 * line). After each page what is whole is noted, so that a copy that broke off goes on from there.
 */
export async function copyFeatures(wire: Wire, order: CopyOrder, onProgress: OnProgress): Promise<Copied> {
  const { folder, layer, signIn } = order;
  mkdirSync(folder, { recursive: true });
  const file = join(folder, `${order.name}.geojsonl`);
  const before = stateOf(order, file);
  const resumedAt = before?.came ?? 0;
  let state: State = before ?? {
    layer,
    degrees: order.degrees,
    next: firstPage(order, PAGE),
    came: 0,
    bytes: 0,
    told: null,
    startedMs: Date.now(),
  };
  const handle = openSync(file, before ? 'a' : 'w');
  try {
    ftruncateSync(handle, state.bytes); // a page that was cut short while it was written
    let size = PAGE;
    while (state.next !== null)
      try {
        const options = { signIn, limitMs: PAGE_LIMIT_MS, mostBytes: MOST_PAGE_BYTES };
        for await (const page of pagesOf(wire, state.next, order.service, options)) {
          const text = page.features.map((f) => `${JSON.stringify(f)}\n`).join('');
          writeSync(handle, text);
          state = {
            ...state,
            next: page.features.length === 0 ? null : page.next,
            came: state.came + page.features.length,
            bytes: state.bytes + Buffer.byteLength(text),
            told: page.matched ?? state.told,
          };
          keep(folder, state);
          onProgress({ done: state.came, of: state.told ?? 0, unit: 'records', item: order.name });
        }
      } catch (error) {
        // Pages that are too large are asked for in smaller ones, as long as nothing of the size asked for has come.
        const isTooLarge = error instanceof ProblemError && error.problem.code === 'no-service' && error.problem.trouble === 'too-large';
        if (!isTooLarge || size <= SMALLEST_PAGE || state.came > 0) throw error;
        size = Math.max(SMALLEST_PAGE, Math.floor(size / 4));
        state = { ...state, next: firstPage(order, size) };
      }
  } finally {
    closeSync(handle);
  }
  return {
    file,
    name: order.name,
    came: state.came,
    told: state.told,
    resumedAt,
    edition: await editionOfCollection(wire, order, state.told ?? state.came),
  };
}

function firstPage({ layer, degrees }: CopyOrder, limit: number): string {
  const url = new URL(layer);
  url.searchParams.set('limit', String(limit));
  if (degrees) url.searchParams.set('bbox', degrees.join(','));
  return url.href;
}

const stateFile = (folder: string): string => join(folder, 'copy.json');
const keep = (folder: string, state: State): void => writeFileSync(stateFile(folder), JSON.stringify(state));

function stateOf(order: CopyOrder, file: string): State | null {
  const path = stateFile(dirname(file));
  if (!existsSync(path) || !existsSync(file)) return null;
  try {
    const state = JSON.parse(readFileSync(path, 'utf8')) as State;
    const isSame = state.layer === order.layer && JSON.stringify(state.degrees) === JSON.stringify(order.degrees);
    const limit = state.next === null ? WHOLE_MS : RESUMABLE_MS;
    return isSame && Date.now() - state.startedMs < limit ? state : null;
  } catch {
    return null; // it was cut short while it was written: begun anew
  }
}

/** What a server tells of a collection now. */
export async function editionOfCollection(
  wire: Wire,
  { layer, signIn }: Pick<CopyOrder, 'layer' | 'signIn'>,
  records: number | null,
): Promise<Edition> {
  const url = new URL(layer);
  url.pathname = url.pathname.replace(/\/items\/?$/, '');
  url.search = '';
  const { document } = await askJson(wire, url.href, { signIn });
  const updated = (document as { updated?: unknown } | null)?.updated;
  return { etag: null, modified: null, bytes: null, sha256: null, records, updated: typeof updated === 'string' ? updated : null };
}
