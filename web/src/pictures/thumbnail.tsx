import { useQuery } from '@tanstack/react-query';
import type { DatasetView, ThumbnailView } from '@rootmap/core/contract';
import { useToken } from '../theme/use-token.js';
import { askForThumbnail } from './thumbnail-queue.js';
import { keys } from '../api/queries.js';

const WIDTH = 44;
const HEIGHT = 28;
/** Those that the server draws over. */
const [STEPS_ACROSS, STEPS_DOWN] = [96, 60];

/** A small picture of a dataset; an empty frame where it has none, or until it is there. */
export function Thumbnail({ projectKey, dataset, modifiedMs }: { projectKey: string; dataset: DatasetView; modifiedMs: number }) {
  const hasShape = dataset.kind === 'vector' || dataset.kind === 'raster';
  const { data } = useQuery({
    queryKey: keys.thumbnail(projectKey, dataset.id, modifiedMs, dataset.bytes),
    queryFn: () => askForThumbnail(projectKey, dataset.id),
    enabled: hasShape,
    staleTime: Infinity,
    retry: false,
  });
  const colour = useToken('--spruce');
  const src = !data ? null : data.image === null ? painted(data, colour) : `data:image/png;base64,${data.image}`;
  return (
    <div data-thumbnail={data ? data.kind : 'none'} className={hasShape ? 'thumbnail' : undefined}>
      {src && <img src={src} alt="" width={WIDTH} height={HEIGHT} />}
    </div>
  );
}

/** How thumbnails look; said once for the table that has them. */
export const THUMBNAILS = {
  '& .thumbnail': { width: WIDTH, height: HEIGHT, borderRadius: '3px', bgcolor: 'var(--slate-wash)' },
  '& .thumbnail img': { display: 'block', objectFit: 'contain' },
} as const;

const pictures = new WeakMap<ThumbnailView, { readonly colour: string; readonly url: string }>();
let canvas: HTMLCanvasElement | null = null;

/** Drawn once into pixels: as shapes of the page, a screen of them would cost a frame at every step of the scrolling. */
function painted(thumbnail: ThumbnailView, colour: string): string {
  const kept = pictures.get(thumbnail);
  if (kept?.colour === colour) return kept.url;
  const scale = window.devicePixelRatio || 1;
  canvas ??= document.createElement('canvas');
  canvas.width = WIDTH * scale; // which clears it too
  canvas.height = HEIGHT * scale;
  const context = canvas.getContext('2d', { willReadFrequently: true })!;
  context.scale((WIDTH / STEPS_ACROSS) * scale, (HEIGHT / STEPS_DOWN) * scale);
  const shape = new Path2D(thumbnail.path);
  context.fillStyle = colour;
  context.strokeStyle = colour;
  context.lineCap = 'round';
  context.lineJoin = 'round';
  context.lineWidth = thumbnail.kind === 'point' ? 4 : 1.8;
  if (thumbnail.kind === 'area') {
    context.globalAlpha = 0.3;
    context.fill(shape, 'evenodd');
    context.globalAlpha = 1;
  }
  context.stroke(shape);
  const url = canvas.toDataURL();
  pictures.set(thumbnail, { colour, url });
  return url;
}
