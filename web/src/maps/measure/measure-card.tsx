import { mdiClose } from '@mdi/js';
import { Box, Button, IconButton, Stack, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useEffect, useMemo, useState } from 'react';
import type { Spheroid } from '@rootmap/core';
import { copyText } from '../../parts/copy-text.js';
import { number } from '../../parts/format.js';
import { Icon } from '../../parts/icon.js';
import { useLatest } from '../../parts/use-latest.js';
import { TypedVertices } from '../digitise/typed-vertices.js';
import { MAP_CARD } from '../edit/map-card-style.js';
import type { MapPlane, Point } from '../edit/map-plane.js';
import type { MapScene } from '../edit/map-scene.js';
import { measurer, type Measured } from './measure-points.js';
import { areaWords, differenceWords, lengthWords } from './measure-words.js';
import { isEnough, useMeasureBoard } from './use-measure-board.js';

interface Props {
  readonly plane: MapPlane;
  readonly scene: MapScene;
  /** Told of an area that is finished. */
  readonly onArea: (corners: readonly Point[]) => void;
  /** Null: no layer has records to be taken out. */
  readonly onTakeOut: (() => void) | null;
  readonly onClose: () => void;
}

/** How long a line is, or how large an area, on the ellipsoid and in the map's plane: by pointer or by typed positions. */
export function MeasureCard({ plane, scene, onArea, onTakeOut, onClose }: Props) {
  const [isArea, setArea] = useState(false);
  const { sketch, board } = useMeasureBoard(scene, isArea);
  const { corners } = sketch;
  const canEnd = isEnough(corners, isArea);
  const measure = useMemo(() => measurer(plane), [plane]);
  const found = useMemo(() => measure(corners, isArea), [measure, corners, isArea]);
  const clear = (): void => board.current?.clear();
  const back = (): void => board.current?.back();
  const finish = (): void => void (canEnd && board.current?.finish());
  useMeasureKeys({ escape: corners.length > 0 ? clear : onClose, back, finish });
  const copied = found.ground && (isArea ? `${found.ground.area.toFixed(2)} m²` : `${found.ground.length.toFixed(3)} m`);
  return (
    <Stack component="section" aria-label="Measure" sx={{ ...MAP_CARD, width: 330 }}>
      <Stack direction="row" sx={{ gap: 1, alignItems: 'center' }}>
        <Typography component="h2" sx={{ fontSize: 15, fontWeight: 700, flex: 1 }}>
          Measure
        </Typography>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={isArea}
          onChange={(_, v: boolean | null) => v !== null && setArea(v)}
          aria-label="What is measured"
        >
          <ToggleButton value={false} sx={{ py: 0.25 }}>
            Length
          </ToggleButton>
          <ToggleButton value={true} sx={{ py: 0.25 }}>
            Area
          </ToggleButton>
        </ToggleButtonGroup>
        <IconButton size="small" aria-label="Stop measuring" onClick={onClose}>
          <Icon path={mdiClose} />
        </IconButton>
      </Stack>
      <Result found={found} isArea={isArea} canEnd={canEnd} />
      <TypedVertices plane={plane} kind="Point" onShape={({ coordinates }) => board.current?.add([coordinates as Point])} />
      <Stack direction="row" sx={{ gap: 0.5, flexWrap: 'wrap' }}>
        <Button size="small" disabled={corners.length === 0 || sketch.isDone} onClick={back}>
          Take one back
        </Button>
        <Button size="small" disabled={!canEnd || sketch.isDone} onClick={finish}>
          Finish
        </Button>
        <Button size="small" disabled={corners.length === 0} onClick={clear}>
          Begin anew
        </Button>
        <Button size="small" disabled={!canEnd || !copied} onClick={() => void (copied && copyText(copied))}>
          Copy
        </Button>
        {isArea && sketch.isDone && onTakeOut && (
          <Button size="small" onClick={() => (onArea(corners), onTakeOut())}>
            Take out what meets it
          </Button>
        )}
      </Stack>
    </Stack>
  );
}

function Result({ found, isArea, canEnd }: { readonly found: Measured; readonly isArea: boolean; readonly canEnd: boolean }) {
  const { ground, plane, spheroid, problem } = found;
  if (problem !== null) return <Typography sx={{ color: 'var(--plum)' }}>{problem}</Typography>;
  if (!ground || !canEnd)
    return (
      <Typography variant="body2" color="text.secondary">
        Click the corners on the map and end with a double click, or type them. Escape begins anew, Backspace takes the last one back.
      </Typography>
    );
  const [size, flat] = isArea ? [ground.area, plane?.area] : [ground.length, plane?.length];
  const words = isArea ? areaWords : lengthWords;
  return (
    <Box>
      <Typography role="note" aria-label="Measured" className="mono" sx={{ fontSize: 20, fontWeight: 650 }}>
        {words(size)}
      </Typography>
      {isArea && <Typography variant="body2">{lengthWords(ground.length)} around</Typography>}
      {ground.legs.length > 1 && (
        <Typography variant="body2" aria-label="Legs" role="note" sx={{ maxHeight: 62, overflow: 'auto' }} tabIndex={0}>
          Legs: {ground.legs.map(lengthWords).join(', ')}
        </Typography>
      )}
      {flat !== undefined && (
        <Typography variant="body2" role="note" aria-label="In the plane">
          In the map’s plane {words(flat)}: {differenceWords(flat, size)}
        </Typography>
      )}
      {spheroid && (
        <Typography variant="body2" color="text.secondary">
          Shortest lines on {spheroidWords(spheroid)}
        </Typography>
      )}
    </Box>
  );
}

const spheroidWords = ({ a, f }: Spheroid): string =>
  f === 0 ? `a sphere of ${number(a)} m` : `the ellipsoid of the CRS: a ${number(a)} m, 1/f ${(1 / f).toFixed(6)}`;

interface Keys {
  readonly escape: () => void;
  readonly back: () => void;
  readonly finish: () => void;
}

/** Escape, Backspace and Enter, but in fields and on buttons, which have them for themselves. */
function useMeasureKeys(keys: Keys): void {
  const live = useLatest(keys);
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      const { target } = e;
      if (e.key === 'Escape') return live.current.escape();
      if (target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement || target instanceof HTMLButtonElement) return;
      if (e.key === 'Backspace') live.current.back();
      else if (e.key === 'Enter') live.current.finish();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [live]);
}
