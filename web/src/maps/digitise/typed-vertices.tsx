import { Box, Button, TextField } from '@mui/material';
import { useState } from 'react';
import type { DrawnGeometry, DrawnKind } from '@rootmap/core/contract';
import { many } from '../../parts/format.js';
import type { MapPlane, Point } from '../edit/map-plane.js';
import { positionText, readPosition } from '../edit/position-text.js';

const FEWEST: Readonly<Record<DrawnKind, number>> = { Point: 1, LineString: 2, Polygon: 3 };

function shapeOf(kind: DrawnKind, vertices: readonly Point[]): DrawnGeometry {
  if (kind === 'Point') return { type: kind, coordinates: vertices[0] };
  return { type: kind, coordinates: kind === 'LineString' ? vertices : [[...vertices, vertices[0]]] };
}

/** A shape by typed positions: for those who have them in figures, or use no pointer. */
export function TypedVertices({ plane, kind, onShape }: { plane: MapPlane; kind: DrawnKind; onShape: (geometry: DrawnGeometry) => void }) {
  const [text, setText] = useState('');
  const [vertices, setVertices] = useState<readonly Point[]>([]);
  const [fault, setFault] = useState<string | null>(null);
  const last = vertices.at(-1);
  const add = (): void => {
    const position = readPosition(text);
    const at = position === null ? null : position.kind === 'plane' ? position.at : plane.toPlane(position.at);
    if (!at) return setFault(`"${text}" is no position`);
    setFault(null);
    setText('');
    if (kind === 'Point') onShape(shapeOf(kind, [at]));
    else setVertices([...vertices, at]);
  };
  return (
    <Box>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-start' }}>
        <TextField
          size="small"
          fullWidth
          label="Or type a position"
          placeholder="E N, or 43.98N 39.17W"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && add()}
          error={fault !== null}
          helperText={
            fault ??
            (last
              ? `${many(vertices.length, 'vertex', 'vertices')}, the last at ${positionText(last, plane.crs?.unit ?? null)}`
              : undefined)
          }
          slotProps={{ htmlInput: { className: 'mono' } }}
        />
        <Button disabled={text.trim() === ''} onClick={add}>
          Add
        </Button>
        {kind !== 'Point' && (
          <Button disabled={vertices.length < FEWEST[kind]} onClick={() => (onShape(shapeOf(kind, vertices)), setVertices([]))}>
            Finish
          </Button>
        )}
      </Box>
    </Box>
  );
}
