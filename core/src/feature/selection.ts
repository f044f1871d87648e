/** Which records of a dataset are meant: those that meet all of it. */
export interface Selection {
  /** CQL2 text, as the filter of a layer has it; '' takes every record. */
  readonly filter: string;
  /** Shapes that have a position in common with it; null: wherever they are. */
  readonly area: SelectionArea | null;
  /** Ids; null: all. */
  readonly records: readonly number[] | null;
}
export interface SelectionArea {
  /** Of its corners; null: that of the data. */
  readonly crs: string | null;
  /** Corners in turn, x east or longitude; the last one is joined to the first. */
  readonly corners: readonly (readonly [x: number, y: number])[];
}

export const EVERY_RECORD: Selection = { filter: '', area: null, records: null };
