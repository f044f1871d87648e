import { Box } from '@mui/material';
import { useEffect, useRef, useState } from 'react';
import { Waiting } from '../../parts/states.js';
import type { MapPlane } from '../edit/map-plane.js';
import type { SceneLayer } from '../edit/map-scene.js';
import { scaleText } from '../edit/position-text.js';
import { mapFrame, pageMarks, type PageSpec } from './page-marks.js';
import { paintCanvas } from './paint-canvas.js';
import { renderMap } from './render-map.js';

const PREVIEW_DPI = 60;

/** What is drawn of a map, wherever it is drawn. */
export interface Drawn {
  readonly plane: MapPlane;
  readonly layers: readonly SceneLayer[];
  readonly hasLand: boolean;
  readonly pictureUrl: (layer: string, href: string) => string | null;
}

/** The page in little, drawn by what will write it. */
export function PagePreview({
  spec,
  layers,
  plane,
  center,
  pictureUrl,
  hasLand,
}: Drawn & { readonly spec: PageSpec; readonly center: readonly [number, number] }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [map, setMap] = useState<HTMLCanvasElement | null>(null);
  const { scale, width, height } = spec;
  useEffect(() => {
    let isStale = false;
    const timer = setTimeout(() => {
      void renderMap(plane, layers, { center, scale }, mapFrame({ width, height }), PREVIEW_DPI, pictureUrl, hasLand).then((made) => {
        if (!isStale) setMap(made.canvas);
      });
    }, 250);
    return () => {
      isStale = true;
      clearTimeout(timer);
    };
  }, [plane, layers, center, scale, width, height, pictureUrl, hasLand]);
  useEffect(() => {
    if (canvas.current) paintCanvas(canvas.current, spec, pageMarks(spec), map, 110);
  }, [spec, map]);
  return (
    <Box>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`The page: ${spec.title} at ${scaleText(scale)}`}
        data-drawn={map !== null}
        style={{ width: '100%', maxHeight: 470, objectFit: 'contain', border: '1px solid var(--rule)', display: 'block' }}
      />
      {!map && <Waiting what="Drawing the page…" />}
    </Box>
  );
}
