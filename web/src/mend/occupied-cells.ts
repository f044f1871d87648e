export const CELLS = 16;

/** Cells of a grid that hold something, as `[col, row]`, row 0 in the south. */
export function occupiedCells(grid: string): [number, number][] {
  const cells: [number, number][] = [];
  for (let i = 0; i < grid.length; i++) {
    const digit = parseInt(grid[grid.length - 1 - i]!, 16);
    for (let bit = 0; bit < 4; bit++) if ((digit >> bit) & 1) cells.push([(i * 4 + bit) % CELLS, Math.floor((i * 4 + bit) / CELLS)]);
  }
  return cells;
}
