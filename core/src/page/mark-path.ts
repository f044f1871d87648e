import type { LayerSymbol } from '../look/look.js';

/** The mark of a point as an SVG path, around its middle. @param r half of its size */
export function markPath(mark: LayerSymbol['mark'], x: number, y: number, r: number): string {
  const poly = (points: readonly (readonly [number, number])[]): string =>
    `M${points.map(([a, b]) => `${x + a * r} ${y + b * r}`).join('L')}Z`;
  switch (mark) {
    case 'circle':
      return `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`;
    case 'square':
      return poly([
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ]);
    case 'triangle':
      return poly([
        [0, -1.1],
        [1, 0.8],
        [-1, 0.8],
      ]);
    case 'star':
      return poly(
        Array.from(
          { length: 10 },
          (_, i) => [Math.sin((i * Math.PI) / 5) * (i % 2 ? 0.45 : 1.1), -Math.cos((i * Math.PI) / 5) * (i % 2 ? 0.45 : 1.1)] as const,
        ),
      );
    case 'cross':
      return `M${x - r} ${y}H${x + r}M${x} ${y - r}V${y + r}`;
    case 'x':
      return `M${x - r} ${y - r}L${x + r} ${y + r}M${x - r} ${y + r}L${x + r} ${y - r}`;
  }
}
