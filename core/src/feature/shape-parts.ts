/** Shapes of one kind, of a dataset that has several. */
export const SHAPE_PARTS = ['points', 'lines', 'areas', 'others'] as const;

export type ShapePart = (typeof SHAPE_PARTS)[number];
