import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { kindOfAddress, type ServiceItem } from '@rootmap/core';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { sentenceOf, Waiting } from '../parts/states.js';

const WIDTH = 320;
const HEIGHT = 200;
type Box4 = readonly [number, number, number, number];

/** The whole of it, with some room around; as wide as the picture. */
function framed([w, s, e, n]: Box4): Box4 {
  const [x, y] = [(w + e) / 2, (s + n) / 2];
  const tall = Math.max((n - s) * 1.1, 0.001);
  const wide = Math.max((e - w) * 1.1, 0.001);
  const height = Math.max(tall, (wide * HEIGHT) / WIDTH);
  return [x - (height * WIDTH) / HEIGHT / 2, y - height / 2, x + (height * WIDTH) / HEIGHT / 2, y + height / 2];
}

const EARTH = 6_378_137;
const LIMIT = 85;
const mercator = ([w, s, e, n]: Box4): Box4 => {
  const y = (lat: number): number => EARTH * Math.log(Math.tan(Math.PI / 4 + (Math.max(-LIMIT, Math.min(LIMIT, lat)) * Math.PI) / 360));
  const x = (lon: number): number => (EARTH * lon * Math.PI) / 180;
  return [x(w), y(s), x(e), y(n)];
};

/** What a thing looks like, before it is brought anywhere. */
export function SamplePicture({ projectKey, item }: { projectKey: string; item: ServiceItem }) {
  const kind = item.href === null ? null : kindOfAddress(item.href);
  if (kind === null || item.whyNot !== null) return null;
  const degrees = item.degrees ?? ([-180, -80, 180, 80] as const);
  return (
    <Box sx={{ height: HEIGHT, bgcolor: 'var(--sunk)', borderRadius: 1, overflow: 'hidden', display: 'grid', placeItems: 'center' }}>
      {kind === 'features' ? (
        <SampleShapes key={item.href} projectKey={projectKey} item={item} box={framed(degrees)} />
      ) : (
        <SampleImage key={item.href} src={addressOf(projectKey, item.href!, kind, degrees, item.crs)} title={item.title} />
      )}
    </Box>
  );
}

function addressOf(key: string, layer: string, kind: 'wms' | 'tiles', degrees: Box4, crs: readonly string[]): string {
  if (kind === 'tiles') return `/api/projects/${key}/services/tile?${new URLSearchParams({ layer, z: '0', x: '0', y: '0' }).toString()}`;
  const inMetres = crs.includes('EPSG:3857') || crs.length === 0;
  const box = framed(inMetres ? mercator(degrees) : degrees);
  return `/api/projects/${key}/services/picture?${new URLSearchParams({
    layer,
    crs: inMetres ? 'EPSG:3857' : 'EPSG:4326',
    box: box.join(','),
    width: String(WIDTH),
    height: String(HEIGHT),
  }).toString()}`;
}

function SampleImage({ src, title }: { src: string; title: string }) {
  const [state, setState] = useState<'waiting' | 'shown' | 'failed'>('waiting');
  return (
    <>
      {state === 'failed' && <span>It sends no picture just now.</span>}
      <img
        src={src}
        alt={`What ${title} looks like`}
        onLoad={() => setState('shown')}
        onError={() => setState('failed')}
        style={{ maxWidth: '100%', maxHeight: HEIGHT, display: state === 'failed' ? 'none' : undefined }}
      />
    </>
  );
}

function SampleShapes({ projectKey, item, box }: { projectKey: string; item: ServiceItem; box: Box4 }) {
  const shapes = useQuery({
    queryKey: keys.of(projectKey, 'service-features', item.href, 'sample'),
    queryFn: ({ signal }) => api.serviceFeatures(projectKey, item.href!, box, signal),
    retry: false,
  });
  if (shapes.isError) return <Box sx={{ p: 2 }}>{sentenceOf(shapes.error)}</Box>;
  if (!shapes.data) return <Waiting what="Asking for a sample…" />;
  const [w, s, e, n] = box;
  const at = (p: readonly number[]): string =>
    `${(((p[0]! - w) / (e - w)) * WIDTH).toFixed(1)} ${(((n - p[1]!) / (n - s)) * HEIGHT).toFixed(1)}`;
  const marks = shapes.data.document.features.slice(0, 1000).map((f) => pathOf((f as { geometry?: unknown }).geometry, at));
  return (
    <svg width={WIDTH} height={HEIGHT} viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={`What ${item.title} looks like`}>
      {marks.map((m, i) =>
        m ? (
          <path
            key={i}
            d={m.d}
            fill={m.isArea ? 'var(--slate-wash)' : 'none'}
            stroke="var(--slate)"
            strokeWidth={m.isPoint ? 6 : 1.4}
            strokeLinecap="round"
          />
        ) : null,
      )}
    </svg>
  );
}

function pathOf(geometry: unknown, at: (p: readonly number[]) => string): { d: string; isArea: boolean; isPoint: boolean } | null {
  const g = geometry as { type?: string; coordinates?: unknown } | null;
  if (!g || typeof g.type !== 'string') return null;
  const lines: (readonly number[])[][] = [];
  const walk = (v: unknown): void => {
    if (!Array.isArray(v)) return;
    if (typeof v[0] === 'number') lines.push([v as number[]]);
    else if (Array.isArray(v[0]) && typeof v[0][0] === 'number') lines.push(v as number[][]);
    else for (const inner of v as unknown[]) walk(inner);
  };
  walk(g.coordinates);
  const isArea = g.type.includes('Polygon');
  const d = lines.map((l) => `M${at(l[0]!)}${l.length > 1 ? `L${l.slice(1).map(at).join('L')}` : 'h0.01'}${isArea ? 'Z' : ''}`).join('');
  return { d, isArea, isPoint: g.type.includes('Point') };
}
