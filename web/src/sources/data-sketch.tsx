import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { api } from '../api/client.js';

const WIDTH = 288;
const HEIGHT = 168;
const EDGE = 10;
const STEPS = 1000;

/** The shape of a dataset, drawn in its own coordinates. */
export function DataSketch({ projectKey, dataset, name }: { projectKey: string; dataset: string; name: string }) {
  const sketch = useQuery({
    queryKey: ['project', projectKey, 'sketch', dataset],
    queryFn: () => api.sketch(projectKey, dataset),
    retry: false,
    placeholderData: (before) => before,
  });
  const canvas = useRef<HTMLCanvasElement>(null);
  const data = sketch.data;
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !data?.extent) return;
    const scale = window.devicePixelRatio || 1;
    canvas.current!.width = WIDTH * scale;
    canvas.current!.height = HEIGHT * scale;
    context.scale(scale, scale);
    const [minx, miny, maxx, maxy] = data.extent;
    const ratio = maxy > miny ? (maxx - minx) / (maxy - miny) : 4;
    const width = Math.min(WIDTH - 2 * EDGE, (HEIGHT - 2 * EDGE) * ratio);
    const height = Math.min(HEIGHT - 2 * EDGE, (WIDTH - 2 * EDGE) / ratio);
    const left = (WIDTH - width) / 2;
    const top = (HEIGHT - height) / 2;
    const colour = getComputedStyle(canvas.current!).getPropertyValue('--spruce');
    context.fillStyle = colour;
    context.strokeStyle = colour;
    if (data.isRaster || data.points.length === 0) {
      context.globalAlpha = 0.25;
      context.fillRect(left, top, width, height);
      return;
    }
    context.globalAlpha = 0.75;
    const size = data.points.length > 2000 ? 1.2 : data.points.length > 200 ? 1.8 : 4;
    for (let i = 0; i < data.points.length; i += 2)
      context.fillRect(
        left + (data.points[i]! / STEPS) * width - size / 2,
        top + height - (data.points[i + 1]! / STEPS) * height - size / 2,
        size,
        size,
      );
  }, [data]);
  if (!data?.extent) return null;
  return (
    <Box
      component="canvas"
      ref={canvas}
      role="img"
      aria-label={data.isRaster ? `The extent of ${name}` : `The shape of ${name}`}
      sx={{
        width: WIDTH,
        height: HEIGHT,
        maxWidth: '100%',
        bgcolor: 'var(--slate-wash)',
        border: '1px solid var(--rule)',
        borderRadius: '6px',
      }}
    />
  );
}
