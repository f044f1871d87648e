import type { PageMark } from './page-model.js';

export const INK = '#1c2a27';
export const SOFT = '#56625e';

export const text = (
  what: string,
  x: number,
  y: number,
  size: number,
  content: string,
  more: Partial<Extract<PageMark, { kind: 'text' }>> = {},
): PageMark => ({ kind: 'text', what, x, y, size, text: content, isBold: false, align: 'left', ...more });
export const rect = (
  x: number,
  y: number,
  w: number,
  h: number,
  fill: string | null,
  stroke: string | null,
  width = 0.2,
  opacity = 1,
): PageMark => ({
  kind: 'rect',
  x,
  y,
  w,
  h,
  fill,
  stroke,
  width,
  opacity,
});
