type Box = readonly [minx: number, miny: number, maxx: number, maxy: number];

/** The box of boxes; null: there is none. */
export const boxAround = (boxes: readonly Box[]): Box | null =>
  boxes.reduce<Box | null>(
    (all, b) => (all ? [Math.min(all[0], b[0]), Math.min(all[1], b[1]), Math.max(all[2], b[2]), Math.max(all[3], b[3])] : b),
    null,
  );
