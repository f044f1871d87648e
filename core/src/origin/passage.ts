/** What a passage of a note tells of the data. */
export const PASSAGE_KINDS = ['units', 'crs', 'scale', 'date', 'limits', 'licence'] as const;
export type PassageKind = (typeof PASSAGE_KINDS)[number];

/** What each kind is called. */
export const PASSAGE_WORD: Readonly<Record<PassageKind, string>> = {
  units: 'Units',
  crs: 'CRS',
  scale: 'Scale',
  date: 'Date',
  limits: 'Limits of use',
  licence: 'Licence',
};

/** A part of a note's text: where it begins, in characters (UTF-16 units) of the whole text, and its words. */
export interface Passage {
  readonly about: PassageKind;
  readonly at: number;
  readonly words: string;
}

/** A passage that a person took over: it stands as stated by the publisher, with its place. */
export interface StatedPassage extends Passage {
  /** The note, by its path from the folder of the record that holds this. */
  readonly note: string;
}

const MOST_PASSAGES = 100;

/** Passages as a record holds them; what is none is left out. */
export const passagesOf = (value: unknown): StatedPassage[] =>
  (Array.isArray(value) ? (value as unknown[]) : []).slice(0, MOST_PASSAGES).flatMap((p) => {
    const { about, at, words, note } = (typeof p === 'object' && p !== null ? p : {}) as Record<string, unknown>;
    const isOne =
      PASSAGE_KINDS.includes(about as PassageKind) && Number.isInteger(at) && typeof words === 'string' && typeof note === 'string';
    return isOne ? [{ about: about as PassageKind, at: at as number, words: words, note: note }] : [];
  });
