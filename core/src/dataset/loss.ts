/** Something that does not come along, for the middle of a sentence, and how many of it there are where that is known. */
export interface Loss {
  readonly code:
    | 'bands'
    | 'palette'
    | 'digits'
    | 'mask'
    | 'rounded'
    | 'arcs'
    | 'heights'
    | 'measures'
    | 'no-shape'
    | 'no-number'
    | 'field'
    | 'name'
    | 'type'
    | 'cut'
    | 'no-date'
    | 'missing'
    | 'position';
  readonly what: string;
  readonly count: number | null;
  /** The field that it is about. */
  readonly field?: string;
}

/** A loss that is counted: none where there is nothing to tell. @param count null: not counted yet */
export function lossOf(code: Loss['code'], count: number | null, one: string, many: string, field?: string): Loss[] {
  if (count === 0) return [];
  return [{ code, what: count === 1 ? one : many, count, ...(field === undefined ? {} : { field }) }];
}

/** Shapes whose arcs became chords (`straightWkb`). */
export const arcsLost = (count: number | null): Loss[] =>
  lossOf('arcs', count, 'shape whose arcs become short chords', 'shapes whose arcs become short chords');
/** What a double can be and a database cannot hold. */
export const noNumbersLost = (count: number | null): Loss[] =>
  lossOf(
    'no-number',
    count,
    'value that is no number (NaN, infinite) becomes empty',
    'values that are no numbers (NaN, infinite) become empty',
  );
/** Text that many formats cannot tell from none. */
export const EMPTY_TEXT_LOST: Loss = {
  code: 'missing',
  what: 'text that is empty and text that is missing become the same',
  count: null,
};

export function lossWords({ what, count, field }: Loss): string {
  const counted = count === null ? what : `${count} ${what}`;
  return field === undefined ? counted : `${field}: ${counted}`;
}
