/** Well-known text of a CRS (OGC 01-009, "WKT 1"), read as a tree. WKT 2 has the same brackets and is read too. */
export interface WktNode {
  readonly keyword: string;
  readonly values: readonly (string | number)[];
  readonly children: readonly WktNode[];
}
