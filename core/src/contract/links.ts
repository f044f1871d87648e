import type { PathRequest } from './places.js';

/** What linking a folder would mean, and what would be better. */
export interface LinkAdvice {
  /** It is inside this link already. */
  readonly inside: string | null;
  /** Linking this folder instead would take the others along. */
  readonly parent: { readonly at: PathRequest; readonly replaces: readonly string[] } | null;
  readonly files: number;
  readonly folders: number;
  readonly bytes: number;
  readonly milliseconds: number;
  /** Counting was ended: there is more. */
  readonly isPartial: boolean;
  readonly isWholePlace: boolean;
  /** Folders with data, the one with the most first; for a place that is too large. */
  readonly better: readonly { readonly at: PathRequest; readonly files: number }[];
  readonly proposedName: string;
}
