import { mapFrame, pageMarks, type PageSpec, scaleText } from '@rootmap/core';
import { Box } from '@mui/material';
import { many } from '../../parts/format.js';
import { useEffect, useRef, useState } from 'react';
import { ErrorState, Waiting } from '../../parts/states.js';
import { decodedPictures } from './decoded.js';
import { paintCanvas, type Pictures } from './paint-canvas.js';
import { renderMap, type MapContent } from './render-map.js';

/** Dots per inch of a small page: of its map, and of what stands around it, whose letters are small. A large page has as many dots in all. */
const MAP_DPI = 60;
const PAGE_DPI = 110;
const SMALL_PAGE_MM = 420;
const shrunk = (dpi: number, { width, height }: Pick<PageSpec, 'width' | 'height'>): number =>
  (dpi * SMALL_PAGE_MM) / Math.max(SMALL_PAGE_MM, width, height);
const WAIT_FOR_TYPING_MS = 250;

/** The page is painted anew so often at most while its map is drawn. */
const PAINTED_EVERY_MS = 400;

/** A drawing that was given up: the page changed, or was closed. */
export const isGivenUp = (error: unknown): boolean => error instanceof DOMException && error.name === 'AbortError';

interface Progress {
  readonly done: number;
  readonly of: number;
}

/** The page in little, drawn by what will write it. */
export function PagePreview({
  spec,
  layers,
  plane,
  center,
  pictureUrl,
  hasLand,
}: MapContent & { readonly spec: PageSpec; readonly center: readonly [number, number] }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [map, setMap] = useState<HTMLCanvasElement | null>(null);
  const [progress, setProgress] = useState<Progress | null>(null);
  const [failed, setFailed] = useState<unknown>(null);
  const { scale, width, height, picture } = spec;
  const [pictures, setPictures] = useState<Pictures>();
  useEffect(() => {
    let isCurrent = true;
    decodedPictures({ picture }).then((now) => isCurrent && setPictures(now), setFailed);
    return () => void (isCurrent = false);
  }, [picture]);
  const shown = useRef(spec);
  useEffect(() => {
    const giveUp = new AbortController();
    let paintedMs = 0;
    const onLayer = (soFar: HTMLCanvasElement, done: number, of: number): void => {
      setProgress({ done, of });
      if (performance.now() - paintedMs < PAINTED_EVERY_MS || !canvas.current) return;
      paintedMs = performance.now();
      paintCanvas(canvas.current, shown.current, pageMarks(shown.current), soFar, shrunk(PAGE_DPI, shown.current));
    };
    const draw = async (): Promise<void> => {
      setFailed(null);
      setProgress({ done: 0, of: 0 });
      const view = { center, scale, frame: mapFrame({ width, height }), dpi: shrunk(MAP_DPI, { width, height }) };
      const made = await renderMap({ plane, layers, pictureUrl, hasLand }, view, { signal: giveUp.signal, onLayer });
      setMap(made.canvas);
      setProgress(null);
    };
    const timer = setTimeout(
      () => void draw().catch((error: unknown) => isGivenUp(error) || (setFailed(error), setProgress(null))),
      WAIT_FOR_TYPING_MS,
    );
    return () => {
      giveUp.abort();
      clearTimeout(timer);
    };
  }, [plane, layers, center, scale, width, height, pictureUrl, hasLand]);
  useEffect(() => {
    shown.current = spec;
    if (canvas.current) paintCanvas(canvas.current, spec, pageMarks(spec), map, shrunk(PAGE_DPI, spec), pictures);
  }, [spec, map, pictures]);
  return (
    <Box>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`The page: ${spec.title} at ${scaleText(scale)}`}
        data-drawn={map !== null && progress === null}
        style={{ width: '100%', maxHeight: 470, objectFit: 'contain', border: '1px solid var(--rule)', display: 'block' }}
      />
      {failed !== null && <ErrorState error={failed} />}
      {progress && (
        <Waiting what={progress.of === 0 ? 'Drawing the page…' : `Drawing the page: ${progress.done} of ${many(progress.of, 'layer')}`} />
      )}
    </Box>
  );
}
