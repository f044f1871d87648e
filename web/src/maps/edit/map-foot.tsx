import { Box, TextField } from '@mui/material';
import { lengthText, roundLength } from '@rootmap/core';
import { useState } from 'react';
import type { MapPlane, Point } from './map-plane.js';
import type { Sight } from './map-canvas.js';
import { ScaleChoice } from './scale-choice.js';
import { degreesText, positionText, readPosition } from './position-text.js';

const MOST_BAR = 150;

interface Props {
  readonly plane: MapPlane;
  readonly sight: Sight | null;
  readonly pointer: Point | null;
  readonly onScale: (scale: number) => void;
  readonly onGo: (to: Point) => void;
}

/** Scale bar and scale, the position under the pointer, and where a typed position leads. */
export function MapFoot({ plane, sight, pointer, onScale, onGo }: Props) {
  const [typed, setTyped] = useState('');
  const [fault, setFault] = useState<string | null>(null);
  const perPixel = sight ? plane.metresOfPixel(sight.resolution, sight.center) : 0;
  const bar = perPixel > 0 && plane.crs ? roundLength(perPixel * MOST_BAR) : 0;
  const at = pointer ?? sight?.center ?? null;
  const spot = at && !plane.isDegrees ? plane.toDegrees(at) : null;
  const go = (): void => {
    const position = readPosition(typed);
    const to = position === null ? null : position.kind === 'plane' ? position.at : plane.toPlane(position.at);
    if (!to) return setFault(`"${typed}" is no position: type E and N as the map has them, or degrees like 43.98N 39.17W`);
    setFault(null);
    onGo(to);
  };
  return (
    <>
      <Box sx={{ ...CHIP, left: 12, display: 'flex', alignItems: 'center', gap: 1 }}>
        {bar > 0 && (
          <Box
            role="img"
            aria-label={`Scale bar: ${lengthText(bar)}`}
            data-metres={bar}
            sx={{ display: 'flex', alignItems: 'center', gap: 1 }}
          >
            <Box
              data-bar
              sx={{
                width: bar / perPixel,
                height: 7,
                borderLeft: '2px solid var(--ink)',
                borderRight: '2px solid var(--ink)',
                position: 'relative',
                '&::after': { content: '""', position: 'absolute', left: 0, right: 0, top: 2.5, height: '2px', bgcolor: 'var(--ink)' },
              }}
            />
            <span>{lengthText(bar)}</span>
          </Box>
        )}
        <ScaleChoice scale={sight && plane.crs ? sight.scale : null} onScale={onScale} />
      </Box>
      <Box
        sx={{ ...CHIP, right: 12, bottom: { xs: 60, md: 12 }, maxWidth: { xs: 'calc(100% - 24px)', md: '62%' }, boxSizing: 'border-box' }}
      >
        <Box
          role="note"
          aria-label="Position"
          className="mono"
          title={spot ? degreesText(spot) : undefined}
          sx={{ whiteSpace: { md: 'nowrap' } }}
        >
          {at ? positionText(at, plane.crs?.unit ?? null) : ''}
          {spot && (
            <Box component="span" sx={{ color: 'text.secondary', ml: 1.5 }}>
              {degreesText(spot)}
            </Box>
          )}
        </Box>
        <TextField
          variant="standard"
          value={typed}
          placeholder="Go to E N, or 43.98N 39.17W"
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && go()}
          error={fault !== null}
          helperText={fault}
          slotProps={{ htmlInput: { 'aria-label': 'Go to a position', className: 'mono', style: { width: 240, padding: 0 } } }}
        />
      </Box>
    </>
  );
}

const CHIP = {
  position: 'absolute',
  bottom: 12,
  bgcolor: 'var(--sheet)',
  border: '1px solid var(--rule)',
  borderRadius: '6px',
  px: 1.25,
  py: 0.5,
  fontSize: 12.5,
  zIndex: 1,
} as const;
