import { existsSync, statfsSync, statSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { Transform } from 'node:stream';
import { lastNameOf, ProblemError, unportableName, type Edition, type OnProgress } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { createWriteStream, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from '../disk/files.js';
import { sha256Of } from '../bundle/sha256-of.js';
import { noService } from '../wire/wire-problem.js';
import type { SignIn, StreamAnswer, Wire } from '../wire/wire.js';

export interface FetchOrder {
  readonly address: string;
  /** A folder of this address alone: what came of an earlier try is in it. */
  readonly folder: string;
  readonly signIn: SignIn | null;
  readonly signal?: AbortSignal;
}
export interface Fetched {
  readonly path: string;
  readonly name: string;
  readonly resumedAt: number;
  readonly edition: Edition & { readonly bytes: number; readonly sha256: string };
}

interface State {
  readonly etag: string | null;
  readonly modified: string | null;
}

/** A connection that breaks off is taken up again by itself this often. */
const TRIES = 4;

/**
 * Fetches a file by its address. What came of it is kept when the connection breaks off, and the rest is asked for by
 * `Range` with `If-Range` (RFC 9110, 13.1.5 and 14.2), so that two editions are never mixed. The length that the server tells is
 * checked.
 */
export async function fetchFile(wire: Wire, order: FetchOrder, onProgress: OnProgress): Promise<Fetched> {
  mkdirSync(order.folder, { recursive: true });
  const part = join(order.folder, '.part'); // no name that a server gives begins with a point
  let resumedAt = 0;
  for (let attempt = 1; ; attempt++)
    try {
      const { answer, from, state } = await begin(wire, order, part);
      if (attempt === 1) resumedAt = from;
      const name = nameOf(answer);
      const length = Number(answer.headers['content-length']);
      const total = Number.isFinite(length) && answer.headers['content-length'] !== undefined ? from + length : null;
      checkSpace(order.folder, total === null ? 0 : total - from);
      await receive(answer, part, { from, total, name, onProgress, ...(order.signal ? { signal: order.signal } : {}) });
      const bytes = statSync(part).size;
      if (total !== null && bytes !== total) throw noService(new URL(order.address).host, 'broke-off', `${bytes} of ${total} bytes came`);
      const sha256 = await sha256Of(part);
      const path = join(order.folder, name);
      if (existsSync(path)) rmSync(path);
      renameSync(part, path);
      rmSync(stateFile(order.folder));
      return { path, name, resumedAt, edition: { ...state, bytes, sha256, records: null, updated: null } };
    } catch (error) {
      const isBrokenOff =
        error instanceof ProblemError && error.problem.code === 'no-service' && ['broke-off', 'slow'].includes(error.problem.trouble);
      if (!isBrokenOff || attempt >= TRIES || order.signal?.aborted) throw error;
    }
}

async function begin(wire: Wire, { address, folder, signIn, signal }: FetchOrder, part: string) {
  const before = stateOf(folder);
  const has = before && existsSync(part) ? statSync(part).size : 0;
  const mark = before?.etag ?? before?.modified ?? null;
  const options = { signIn, ...(signal ? { signal } : {}) };
  const isRest = has > 0 && mark !== null && !mark.startsWith('W/');
  const answer = await wire
    .stream(address, { ...options, ...(isRest ? { headers: { range: `bytes=${has}-`, 'if-range': mark } } : {}) })
    .catch((error: unknown) => {
      // Nothing is left of it to ask for: what is there is whole, or of no use.
      if (isRest && error instanceof ProblemError && error.problem.code === 'no-service' && error.problem.detail === '416') return null;
      throw error;
    });
  if (answer === null) {
    rmSync(part);
    const whole = await wire.stream(address, options);
    return { answer: whole, from: 0, state: noted(folder, whole) };
  }
  const starts = /^bytes (\d+)-/.exec(answer.headers['content-range'] ?? '')?.[1];
  const from = answer.status === 206 && Number(starts) === has ? has : 0;
  if (answer.status === 206 && from === 0) throw noService(new URL(address).host, 'broken', 'another part than the one asked for');
  return { answer, from, state: noted(folder, answer) };
}

const stateFile = (folder: string): string => join(folder, '.part.json');

function noted(folder: string, { headers }: StreamAnswer): State {
  const state = { etag: headers['etag'] || null, modified: headers['last-modified'] || null };
  writeFileSync(stateFile(folder), JSON.stringify(state));
  return state;
}

function stateOf(folder: string): State | null {
  try {
    return existsSync(stateFile(folder)) ? (JSON.parse(readFileSync(stateFile(folder), 'utf8')) as State) : null;
  } catch {
    return null; // cut short while it was written: the file is fetched from its beginning
  }
}

interface Receiving {
  readonly from: number;
  readonly total: number | null;
  readonly name: string;
  readonly onProgress: OnProgress;
  readonly signal?: AbortSignal;
}

async function receive({ body, url }: StreamAnswer, part: string, { from, total, name, onProgress, signal }: Receiving): Promise<void> {
  let done = from;
  const counting = new Transform({
    transform(piece: Buffer, _encoding, next) {
      done += piece.length;
      onProgress({ done, of: total ?? 0, unit: 'bytes', item: name });
      next(null, piece);
    },
  });
  const out = createWriteStream(part, from > 0 ? { flags: 'a' } : {});
  try {
    await pipeline(body, counting, out, ...(signal ? [{ signal }] : []));
  } catch (error) {
    if (signal?.aborted) throw error;
    const code = (error as { code?: string }).code ?? '';
    if (code === 'ENOSPC' || code === 'EDQUOT') throw new ProblemError({ code: 'no-space', path: part });
    const trouble = /TIMEOUT/.test(code) ? 'slow' : 'broke-off';
    throw noService(new URL(url).host, trouble);
  }
}

function checkSpace(folder: string, bytes: number): void {
  const disk = statfsSync(folder);
  if (disk.bavail * disk.bsize < bytes) throw new ProblemError({ code: 'no-space', path: folder });
}

const ENDINGS: Readonly<Record<string, string>> = {
  'application/zip': '.zip',
  'application/geo+json': '.geojson',
  'application/geopackage+sqlite3': '.gpkg',
  'text/csv': '.csv',
  'application/gpx+xml': '.gpx',
  'application/vnd.google-earth.kml+xml': '.kml',
  'image/tiff': '.tif',
  'application/gzip': '.gz',
};

/** The name that the server gives it (RFC 6266), or the last of its address; one that a disk cannot hold is left aside. */
export function nameOf({ url, headers }: Pick<StreamAnswer, 'url' | 'headers'>): string {
  const told = headers['content-disposition'] ?? '';
  const extended = /filename\*\s*=\s*utf-8''([^;]+)/i.exec(told)?.[1];
  const plain = /filename\s*=\s*(?:"((?:[^"\\]|\\.)*)"|([^;\s]+))/i.exec(told);
  const type = (headers['content-type'] ?? '').split(';')[0]!.trim().toLowerCase();
  const candidates = [decoded(extended), plain?.[1]?.replace(/\\(.)/g, '$1') ?? plain?.[2], lastNameOf(url)];
  const name =
    candidates.find((n) => n !== undefined && n !== '' && !/[/\\]/.test(n) && !n.startsWith('.') && unportableName(n) === null) ??
    'download';
  return /\.[a-z0-9]{2,8}$/i.test(name) ? name : name + (ENDINGS[type] ?? '');
}

function decoded(text: string | undefined): string | undefined {
  try {
    return text === undefined ? undefined : decodeURIComponent(text);
  } catch {
    return undefined; // no text of this kind: another source of the name is taken
  }
}
