/** A registered CRS of some definition. */
export interface SameCrs {
  readonly code: string;
  /** What texts call it. */
  readonly names: readonly string[];
  /** Not one that is withdrawn, has its axes in another order, or a height: those are meant only where their name says so. */
  readonly isPlain: boolean;
}

export const plainName = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]/g, '');

/** Which of the CRSs that mean the same a text means: the one that it names, else the only plain one; null: several could be meant. */
export function chooseCode(same: readonly SameCrs[], written: string | null): string | null {
  const own = written === null ? '' : plainName(written);
  const named = same.filter((c) => c.names.some((n) => plainName(n) === own));
  for (const some of [named.filter((c) => c.isPlain), named, same.filter((c) => c.isPlain)]) if (some.length === 1) return some[0]!.code;
  return null;
}
