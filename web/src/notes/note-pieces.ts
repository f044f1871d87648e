import { sentences, type NoteBlock } from '@rootmap/core';

/** A part of a note's text that is shown otherwise: from, and up to, a place in characters of the whole text. */
export interface Mark {
  readonly from: number;
  readonly to: number;
  /** `chosen`: somebody chose it just now. `taken`: it is stated. `likely`: it looks as if it told something. */
  readonly kind: 'chosen' | 'taken' | 'likely';
}
const STRONGEST: readonly Mark['kind'][] = ['chosen', 'taken', 'likely'];

/** Text that is shown in one way, and where it begins. */
export interface NotePiece {
  readonly at: number;
  readonly text: string;
  readonly kind: Mark['kind'] | null;
}

/** A block's text, cut where marks begin and end; where several lie over each other, the strongest shows. */
export function piecesOf(text: string, start: number, marks: readonly Mark[]): NotePiece[] {
  const own = marks.filter((m) => m.from < start + text.length && m.to > start && m.to > m.from);
  const cuts = new Set([start, start + text.length]);
  for (const { from, to } of own) for (const cut of [from, to]) if (cut > start && cut < start + text.length) cuts.add(cut);
  const sorted = [...cuts].sort((a, b) => a - b);
  return sorted.slice(0, -1).map((at, i) => {
    const to = sorted[i + 1] ?? at;
    const kinds = own.filter((m) => m.from <= at && m.to >= to).map((m) => m.kind);
    return { at, text: text.slice(at - start, to - start), kind: STRONGEST.find((k) => kinds.includes(k)) ?? null };
  });
}

/** Where each block begins in the whole text. */
export function startsOf(blocks: readonly NoteBlock[]): number[] {
  let at = 0;
  return blocks.map(({ text }) => {
    const from = at;
    at += text.length + 1;
    return from;
  });
}

export interface Chosen {
  readonly at: number;
  readonly words: string;
}

/** The sentence that stands at a place of the text; null: there is none. */
export function sentenceAt(blocks: readonly NoteBlock[], at: number): Chosen | null {
  const starts = startsOf(blocks);
  const i = starts.findLastIndex((start) => start <= at);
  const [block, start] = [blocks[i], starts[i]];
  if (!block || start === undefined) return null;
  const found = sentences(block.text).findLast((s) => start + s.at <= at);
  return found ? { at: start + found.at, words: found.words } : null;
}

/** The next place of some words after one, whatever their case; from the beginning again at the end. Null: they are nowhere. */
export function nextPlace(text: string, words: string, after: number): number | null {
  if (words.trim() === '') return null;
  const [all, wanted] = [text.toLowerCase(), words.trim().toLowerCase()];
  const next = all.indexOf(wanted, after + 1);
  const found = next < 0 ? all.indexOf(wanted) : next;
  return found < 0 ? null : found;
}
