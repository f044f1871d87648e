/** The registered CRSs, handed in by whoever can read the table; codes are `EPSG:n`. */
export interface CrsTable {
  /** @param name what the text calls its CRS */
  codeOf(signature: string, name: string | null): string | null;
  nameOf(code: string): string | null;
  /** Of a CRS with heights the one that positions are in; null: it has none. */
  flatOf?(code: string): string | null;
  /** WKT 1 of a code; null: it is not known. */
  textOf?(code: string): string | null;
}

export const noCrsTable: CrsTable = { codeOf: () => null, nameOf: () => null };
