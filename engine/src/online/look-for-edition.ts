import { explain, isCollection, ProblemError, readPage, type Edition } from '@rootmap/core';
import type { EditionLook } from '@rootmap/core/contract';
import { drop, type Answer, type SignIn, type Wire } from '../wire/wire.js';
import { editionOfCollection } from './copy-features.js';
import { askJson } from './read-json.js';

/**
 * Whether what stands at an address is still what was fetched from it: by `ETag`, by date and length (RFC 9110, 8.8 and 13.1),
 * for a collection by its count and its own date. Nothing is fetched. Never throws for what the server does.
 */
export async function lookForEdition(wire: Wire, address: string, before: Edition | null, signIn: SignIn | null): Promise<EditionLook> {
  const common = { address, degrees: before?.degrees ?? null, bytesBefore: before?.bytes ?? null, bytesNow: null, changed: null };
  try {
    return isCollection(address)
      ? await lookAtCollection(wire, address, before, signIn)
      : lookAtFile(address, before, await headOf(wire, address, before, signIn));
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    const { problem } = error;
    const isGone = problem.code === 'no-service' && problem.trouble === 'gone';
    return { ...common, state: isGone ? 'gone' : 'failed', why: explain(problem) };
  }
}

async function headOf(wire: Wire, address: string, before: Edition | null, signIn: SignIn | null): Promise<Answer> {
  const headers: Record<string, string> = {};
  if (before?.etag) headers['if-none-match'] = before.etag;
  else if (before?.modified) headers['if-modified-since'] = before.modified;
  try {
    return await wire.ask(address, { method: 'HEAD', headers, signIn });
  } catch (error) {
    // Some servers answer no HEAD; the head of the file itself says the same.
    if (!(error instanceof ProblemError) || error.problem.code !== 'no-service' || !/^(405|501)$/.test(error.problem.detail ?? ''))
      throw error;
    const answer = await wire.stream(address, { headers, signIn });
    drop(answer.body);
    return { ...answer, body: Buffer.alloc(0) };
  }
}

function lookAtFile(address: string, before: Edition | null, { status, headers }: Answer): EditionLook {
  const length = headers['content-length'];
  const bytesNow = status === 304 ? (before?.bytes ?? null) : length !== undefined && /^\d+$/.test(length) ? Number(length) : null;
  const modified = headers['last-modified'] ?? null;
  const etag = headers['etag'] ?? null;
  const common = { address, degrees: null, bytesBefore: before?.bytes ?? null, bytesNow, changed: modified };
  const is = (state: EditionLook['state'], why: string): EditionLook => ({ ...common, state, why });
  if (!before) return is('not-told', 'When it was fetched, nobody noted what the server told of it. Fetch it again to compare.');
  if (status === 304) return is('unchanged', 'The server says that it has not changed.');
  if (etag && before.etag)
    return sameMark(etag, before.etag)
      ? is('unchanged', 'The server’s mark of the file is the same.')
      : is('changed', 'The server’s mark of the file is another one.');
  if (modified && before.modified && modified !== before.modified) return is('changed', 'The date that the server tells is another one.');
  if (bytesNow !== null && before.bytes !== null && bytesNow !== before.bytes) return is('changed', 'It has another size.');
  if (modified && before.modified) return is('unchanged', 'Date and size that the server tells are the same.');
  return is('not-told', 'The server tells neither mark nor date, and the size is no proof. Fetch it again to compare.');
}

/** Weakly compared: what follows `W/` (RFC 9110, 8.8.3.2). */
const sameMark = (a: string, b: string): boolean => a.replace(/^W\//, '') === b.replace(/^W\//, '');

async function lookAtCollection(wire: Wire, address: string, before: Edition | null, signIn: SignIn | null): Promise<EditionLook> {
  const first = new URL(address);
  first.searchParams.set('limit', '1');
  if (before?.degrees) first.searchParams.set('bbox', before.degrees.join(','));
  const { document, url } = await askJson(wire, first.href, { signIn });
  const records = readPage(document, url)?.matched ?? null;
  const now = await editionOfCollection(wire, { layer: address, signIn }, records);
  const is = (state: EditionLook['state'], why: string): EditionLook => ({
    address,
    degrees: before?.degrees ?? null,
    state,
    why,
    bytesBefore: null,
    bytesNow: null,
    changed: now.updated,
  });
  if (!before) return is('not-told', 'When it was copied, nobody noted what the server told of it. Copy it again to compare.');
  if (before.records !== null && records !== null && before.records !== records)
    return is('changed', `It has ${records} records now, and had ${before.records}.`);
  if (before.updated !== null && now.updated !== null)
    return before.updated === now.updated
      ? is('unchanged', 'Its count and the date that the server tells are the same.')
      : is('changed', 'The date that the server tells is another one.');
  return is('not-told', 'The server tells no date of change, and the same count is no proof. Copy it again to compare.');
}
