import { Box, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { lazy, Suspense, useMemo, useState } from 'react';
import type { RecordComparison } from '@rootmap/core';
import type { QualityRow } from '@rootmap/core/contract';
import { MARK_TONE, type Marks } from '../pictures/marks.js';
import { useViewLink } from '../pictures/view-link.js';
import { many } from '../parts/format.js';

const PreviewMap = lazy(() => import('../pictures/preview-map.js').then((m) => ({ default: m.PreviewMap })));
const HEIGHT = 300;

interface Props {
  readonly projectKey: string;
  readonly before: QualityRow;
  readonly now: QualityRow;
  readonly found: RecordComparison;
}

/** Two editions on maps that move together, or one over the other; what became of records is marked. */
export function CompareMaps({ projectKey, before, now, found: { places } }: Props) {
  const [isOver, setOver] = useState(false);
  const link = useViewLink();
  const [gone, came] = useMemo((): [Marks[], Marks[]] => {
    const changed: Marks = { places: places.changed, shape: 'square' };
    return [
      [{ places: places.removed, shape: 'cross' }, changed],
      [{ places: places.added, shape: 'ring' }, changed],
    ];
  }, [places]);
  const all = useMemo(() => [...gone, ...came.slice(0, 1)], [gone, came]);
  return (
    <Box component="section" aria-label="Both on the map" sx={{ mt: 2 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mb: 1, flexWrap: 'wrap' }}>
        <ToggleButtonGroup
          size="small"
          exclusive
          value={isOver ? 'over' : 'beside'}
          onChange={(_, value: string | null) => value && setOver(value === 'over')}
          aria-label="How both are shown"
        >
          <ToggleButton value="beside">Side by side</ToggleButton>
          <ToggleButton value="over">One over the other</ToggleButton>
        </ToggleButtonGroup>
        <Key shape="ring" words={`${many(places.added.length, 'place')} added`} />
        <Key shape="cross" words={`${many(places.removed.length, 'place')} removed`} />
        <Key shape="square" words={`${many(places.changed.length, 'place')} changed`} />
      </Box>
      <Suspense fallback={<Box sx={{ height: HEIGHT + 20 }} />}>
        {isOver ? (
          <>
            <PreviewMap
              projectKey={projectKey}
              dataset={now.id}
              name={now.name}
              crs={null}
              height={HEIGHT}
              marks={all}
              also={before.id}
              link={link}
            />
            <Typography variant="body2" color="text.secondary">
              Green: as it is now. Brown, below it: as it was before.
            </Typography>
          </>
        ) : (
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
            {[
              { row: before, marks: gone, head: 'Before' },
              { row: now, marks: came, head: 'Now' },
            ].map(({ row, marks, head }) => (
              <Box key={head}>
                <Typography variant="h3">{head}</Typography>
                <PreviewMap
                  projectKey={projectKey}
                  dataset={row.id}
                  name={`${row.name}, ${head.toLowerCase()}`}
                  crs={null}
                  height={HEIGHT}
                  marks={marks}
                  link={link}
                />
              </Box>
            ))}
          </Box>
        )}
      </Suspense>
    </Box>
  );
}

const SIGN = { ring: '○', cross: '✕', square: '□' } as const;

const Key = ({ shape, words }: { shape: Marks['shape']; words: string }) => (
  <Typography component="span" variant="body2">
    <Box component="span" aria-hidden sx={{ color: `var(--${MARK_TONE[shape]})`, fontWeight: 700, mr: 0.5 }}>
      {SIGN[shape]}
    </Box>
    {words}
  </Typography>
);
