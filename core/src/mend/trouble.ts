import type { Judgement } from '../map/judge-layer.js';
import { EXPLAINED, type Proposal, type Shift } from './types.js';

/** What is the matter with one layer, as a person says it, and what to do. */
export interface Trouble {
  readonly code:
    | 'place-absent'
    | 'companion-lost'
    | 'damaged'
    | 'no-source'
    | 'bad-address'
    | 'unknown-drive'
    | 'other-data'
    | 'spelling'
    | 'table-gone'
    | 'table-not-named'
    | 'equal-copies'
    | 'still-packed'
    | 'folder-moved'
    | 'map-moved'
    | 'renamed'
    | 'converted'
    | 'moved'
    | 'gone'
    | 'not-allowed'
    | 'server';
  readonly sentence: string;
  readonly fix: string;
}

/**
 * @param inArchives archives in reach that hold something of its name, as people call them
 * @param tables how many tables were found that fit shapes which lost theirs
 * @param shift what explains it together with others; null: nothing does
 */
export function tellTrouble(
  j: Judgement,
  proposal: Proposal | null,
  inArchives: readonly string[],
  tables = 0,
  shift: Shift['kind'] | null = null,
): Trouble {
  const found = proposal !== null && proposal.verdict !== 'none' && proposal.candidates.length > 0;
  const choice = proposal?.choice ?? null;
  const offer = found ? 'A copy that is offered here can be used instead.' : 'Restore it from a backup, or point to a copy.';
  if (j.reach === 'service')
    return {
      code: 'server',
      sentence: sentenceOf(j.detail, 'Its server does not answer.'),
      fix: 'Ask it again in Sources, Services. Where the server has moved, one answer there puts all of its layers right.',
    };
  if (j.state === 'absent')
    return {
      code: 'place-absent',
      sentence: 'The place of its data is not here; its address is right as it is.',
      fix: proposal?.candidates.some((c) => c.kinds.has('hash'))
        ? 'Plug it in or connect it. A copy that is within reach can be chosen instead.'
        : 'Plug it in or connect it: nothing is to be mended.',
    };
  if (j.state === 'incomplete')
    return {
      code: 'companion-lost',
      sentence: sentenceOf(j.detail, 'A file that belongs to its data is missing.'),
      fix: companionFix(j, found, tables),
    };
  if (j.state === 'unreadable')
    return j.reason === 'permission'
      ? { code: 'not-allowed', sentence: 'Its data may not be read by whoever runs this.', fix: 'Ask for the right to read it.' }
      : { code: 'damaged', sentence: sentenceOf(j.detail, 'Its data is damaged.'), fix: offer };
  if (j.state === 'different')
    return {
      code: 'other-data',
      sentence: `Data of its name stands there, and it is not what the map remembers: ${j.detail ?? 'it differs'}.`,
      fix: found ? 'Its own data was found elsewhere.' : 'If it is meant, map its fields; else point to the right data.',
    };
  if (j.reason === 'spelling')
    return {
      code: 'spelling',
      sentence: 'It is found here only because case or accents do not count; on another machine it would not be.',
      fix: 'Its address is written as its files are spelled.',
    };
  if (choice)
    return {
      code: 'equal-copies',
      sentence: `Data of equal content stands in ${choice.equal} places, and its content does not tell which one was meant.`,
      fix: `Choose one by its place, its date and who uses it${choice.reasons.length > 0 ? '; the likelier one stands first' : ''}.`,
    };
  // What is proved to be its data is no something like it, however doubtful which copy was meant.
  const isWeak = found && !EXPLAINED.includes(proposal.verdict) && !proposal.candidates[0]!.kinds.has('hash');
  if (inArchives.length > 0 && (!found || isWeak))
    return {
      code: 'still-packed',
      sentence: `Data of its name is still packed, inside ${inArchives.join(', ')}.`,
      fix: `Unpack it in Sources; then it is found here.${isWeak ? ' What is offered here is only something like it.' : ''}`,
    };
  if (!found) return lost(j);
  return proposal.verdict === 'certain'
    ? moved(j, shift)
    : { ...moved(j, shift), fix: 'It is not certain: compare it in the proof before its address is written anew.' };
}

const BY_SHIFT: Readonly<Record<Shift['kind'], Pick<Trouble, 'code' | 'sentence'>>> = {
  folder: { code: 'folder-moved', sentence: 'Nothing stands where it was recorded; a folder on its way was moved or has another name.' },
  'map-moved': { code: 'map-moved', sentence: 'The map was moved and its data was not; its addresses are reckoned from where it was.' },
  renamed: { code: 'renamed', sentence: 'Nothing stands where it was recorded; its data has another name now.' },
  converted: { code: 'converted', sentence: 'Nothing stands where it was recorded; its data was put into a geodatabase.' },
};

/** Its data was found, or something like it. */
function moved(j: Judgement, shift: Shift['kind'] | null): Trouble {
  if (j.reason === 'no-reference')
    return {
      code: 'no-source',
      sentence: 'The layer records no source; its data was recognised by what the map remembers of it.',
      fix: 'Where it stands is written.',
    };
  if (j.reason === 'no-place')
    return {
      code: 'unknown-drive',
      sentence: `No place is called ${j.foreign?.root ?? 'so'} here; its data was found in a place of another name.`,
      fix: 'Its address is written anew.',
    };
  if (j.reason === 'no-table' || j.reason === 'table-not-named')
    return {
      code: 'table-gone',
      sentence: `The geodatabase is there, the table is not: ${j.detail ?? 'no table'}.`,
      fix: 'The table that has its data is written.',
    };
  return {
    ...(shift ? BY_SHIFT[shift] : { code: 'moved', sentence: 'Nothing stands where it was recorded; its data was found elsewhere.' }),
    fix: shift === 'converted' ? 'Its address and what kind of data it is are written anew.' : 'Its address is written anew.',
  };
}

/** Nothing like it is in reach. */
function lost(j: Judgement): Trouble {
  const point = 'Point to its data, or add a folder to search.';
  if (j.reason === 'no-reference')
    return { code: 'no-source', sentence: 'The layer records no source, and nothing in reach is what the map remembers.', fix: point };
  if (j.reason === 'bad-address') return { code: 'bad-address', sentence: 'What is recorded is no address.', fix: point };
  if (j.reason === 'no-place')
    return {
      code: 'unknown-drive',
      sentence: `No place is called ${j.foreign?.root ?? 'so'} here.`,
      fix: 'Say in Places which folder that drive or share is, or point to the data.',
    };
  if (j.reason === 'table-not-named')
    return {
      code: 'table-not-named',
      sentence: `The geodatabase holds several tables and the layer names none: ${j.detail ?? ''}.`,
      fix: 'Point to the table.',
    };
  if (j.reason === 'no-table')
    return { code: 'table-gone', sentence: `The geodatabase is there, the table is not: ${j.detail ?? 'no table'}.`, fix: point };
  return { code: 'gone', sentence: 'Nothing stands where it was recorded, and nothing in reach is like it.', fix: point };
}

/** Of a shapefile only the index is lost: that can be made anew. */
export const isIndexLost = (j: Judgement): boolean =>
  j.state === 'incomplete' && /\.shx/i.test(j.detail ?? '') && !/\.dbf/i.test(j.detail ?? '');

function companionFix(j: Judgement, hasCopy: boolean, tables: number): string {
  const copy = hasCopy ? ' A complete copy that is offered here can be used instead.' : '';
  if (isIndexLost(j)) return `The index can be made anew from the shapes.${copy}`;
  if (tables > 0)
    return `${tables === 1 ? 'A table that fits it stands' : `${tables} tables that fit it stand`} elsewhere and can be brought back beside it.${copy}`;
  if (/\.dbf/i.test(j.detail ?? '')) return `Its shapes are there; every value of its table is lost unless the file is found.${copy}`;
  return `Put the missing file beside the others.${copy}`;
}

/** What begins with the name of a file gets words before it: the name stays as it is written. */
function sentenceOf(detail: string | undefined, otherwise: string): string {
  if (detail === undefined) return otherwise;
  const start = /^[a-z]+ /.test(detail) ? detail.charAt(0).toUpperCase() + detail.slice(1) : `Of its data: ${detail}`;
  return `${start}${/[.!]$/.test(detail) ? '' : '.'}`;
}
