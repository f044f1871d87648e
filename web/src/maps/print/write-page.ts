import { mapFrame, pageMarks, type PageSpec } from './page-marks.js';
import { paintCanvas } from './paint-canvas.js';
import type { Wish } from './page-wish.js';
import { renderMap, type MapContent, type RenderFollower } from './render-map.js';

const pngOf = async (canvas: HTMLCanvasElement): Promise<Uint8Array> => {
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
  if (!blob) throw new Error('the picture is larger than this browser can make');
  return new Uint8Array(await blob.arrayBuffer());
};

/** The page as a file. `isWhole`: every tile of the map came in time. */
export async function writePage(
  spec: PageSpec,
  drawn: MapContent,
  center: readonly [number, number],
  { dpi, format, title }: Wish,
  follower: RenderFollower,
): Promise<{ bytes: Uint8Array; isWhole: boolean }> {
  const { canvas, isWhole } = await renderMap(drawn, { center, scale: spec.scale, frame: mapFrame(spec), dpi }, follower);
  const marks = pageMarks(spec);
  if (format === 'pdf') {
    const { paintPdf } = await import('./paint-pdf.js');
    return { bytes: await paintPdf(spec, marks, await pngOf(canvas), title), isWhole };
  }
  const page = document.createElement('canvas');
  paintCanvas(page, spec, marks, canvas, dpi);
  return { bytes: await pngOf(page), isWhole };
}
