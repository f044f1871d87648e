/** What was found of the CRS of data, in words: its code or name, its datum, the unit of its coordinates. Null: not told. */
export interface FoundCrs {
  readonly crs: string | null;
  readonly datum: string | null;
  readonly unit: string | null;
}
