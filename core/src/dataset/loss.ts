/** Something that does not come along, for the middle of a sentence, and how many of it there are where that is known. */
export interface Loss {
  readonly code: 'bands' | 'palette' | 'digits' | 'rounded';
  readonly what: string;
  readonly count: number | null;
}

export const lossWords = ({ what, count }: Loss): string => (count === null ? what : `${count} ${what}`);
