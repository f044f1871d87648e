import { type PageMark } from '@rootmap/core';

const FONT = '"Commissioner Variable", sans-serif';

/** Pictures that are decoded, by their `data:` address. */
export type Pictures = ReadonlyMap<string, CanvasImageSource>;
const NONE: Pictures = new Map();

/** Paints marks on a canvas. @param dpi dots per inch of the picture */
export function paintCanvas(
  canvas: HTMLCanvasElement,
  size: { width: number; height: number },
  marks: readonly PageMark[],
  map: CanvasImageSource | null,
  dpi: number,
  pictures: Pictures = NONE,
): void {
  const k = dpi / 25.4;
  canvas.width = Math.round(size.width * k);
  canvas.height = Math.round(size.height * k);
  const c = canvas.getContext('2d')!;
  c.fillStyle = '#ffffff';
  c.fillRect(0, 0, canvas.width, canvas.height);
  c.scale(k, k);
  for (const m of marks) {
    if (m.kind === 'shapes' || m.kind === 'label') continue; // they are in the picture of the map
    c.globalAlpha = m.kind === 'rect' || m.kind === 'path' ? m.opacity : 1;
    if (m.kind === 'map') {
      if (map) c.drawImage(map, m.x, m.y, m.w, m.h);
    } else if (m.kind === 'picture') {
      const picture = pictures.get(m.data);
      if (picture) c.drawImage(picture, m.x, m.y, m.w, m.h);
    } else if (m.kind === 'rect') {
      if (m.fill) {
        c.fillStyle = m.fill;
        c.fillRect(m.x, m.y, m.w, m.h);
      }
      if (m.stroke) {
        c.strokeStyle = m.stroke;
        c.lineWidth = m.width;
        c.strokeRect(m.x, m.y, m.w, m.h);
      }
    } else if (m.kind === 'path') {
      const path = new Path2D(m.d);
      if (m.fill) {
        c.fillStyle = m.fill;
        c.fill(path);
      }
      if (m.stroke) {
        c.strokeStyle = m.stroke;
        c.lineWidth = m.width;
        c.stroke(path);
      }
    } else {
      c.fillStyle = '#1c2a27';
      c.textAlign = m.align;
      c.font = `${m.isBold ? 700 : 400} ${m.size}px ${FONT}`;
      c.fillText(m.text, m.x, m.y);
    }
  }
}
