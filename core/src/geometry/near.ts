/** Positions x, y, x, y … of a line, or of a ring that ends where it begins. */
export type Run = ArrayLike<number>;

/** Whether a point lies inside a ring, by the crossings of a ray (even–odd rule). On the edge either may be said. */
function isAround(ring: Run, x: number, y: number): boolean {
  let inside = false;
  for (let i = 0; i + 3 < ring.length; i += 2) {
    const [ax, ay, bx, by] = [ring[i]!, ring[i + 1]!, ring[i + 2]!, ring[i + 3]!];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}

/** Whether a point lies inside an area: in an odd number of its rings. */
export const isWithin = (rings: readonly Run[], x: number, y: number): boolean =>
  rings.reduce((n, ring) => n + Number(isAround(ring, x, y)), 0) % 2 === 1;

/** From a point to the nearest place of a run, in the unit of its plane. A run of one position is a point; an empty one is nowhere. */
export function awayFrom(run: Run, x: number, y: number): number {
  if (run.length < 2) return Infinity;
  let least = Math.hypot(run[0]! - x, run[1]! - y);
  for (let i = 0; i + 3 < run.length; i += 2) {
    const [ax, ay] = [run[i]!, run[i + 1]!];
    const [dx, dy] = [run[i + 2]! - ax, run[i + 3]! - ay];
    const square = dx * dx + dy * dy;
    const t = square === 0 ? 0 : Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / square));
    const away = Math.hypot(ax + t * dx - x, ay + t * dy - y);
    if (away < least) least = away;
  }
  return least;
}
