import { Autocomplete, Box, Button, TextField, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { lazy, Suspense, useCallback, useMemo, useState } from 'react';
import { accuracyWords, positionalAccuracy, readCheckPoints, type CheckPoint } from '@rootmap/core';
import type { ProjectView, QualityRow } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { many, number } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import type { Marks } from '../pictures/marks.js';
import { useViewLink } from '../pictures/view-link.js';

const PreviewMap = lazy(() => import('../pictures/preview-map.js').then((m) => ({ default: m.PreviewMap })));
const HEIGHT = 240;

interface Props {
  readonly project: ProjectView;
  readonly row: QualityRow;
  /** Datasets that may be a better source. */
  readonly others: readonly QualityRow[];
  /** Code of the CRS that its coordinates are in. */
  readonly crs: string | null;
  readonly unit: string;
  readonly onState: (words: string) => void;
}

const lineOf = ({ x, y, referenceX, referenceY }: CheckPoint): string =>
  [x, y, referenceX, referenceY].map((n) => Number(n.toFixed(3))).join(' ');

/** Places as the data has them and as a better source has them (matched, picked or pasted): how far apart they are, by the NSSDA. */
export function CheckPoints({ project, row, others, crs, unit, onState }: Props) {
  const [text, setText] = useState('');
  const [way, setWay] = useState<'match' | 'pick' | 'paste'>('match');
  const { points, odd } = readCheckPoints(text);
  const words = points.length === 0 ? null : accuracyWords(positionalAccuracy(points), unit);
  const add = useCallback(
    (more: readonly CheckPoint[]) => setText((before) => [before.trimEnd(), ...more.map(lineOf)].filter(Boolean).join('\n')),
    [],
  );
  return (
    <Box component="details" sx={{ mt: 1.5, fontSize: 13, '& summary': { cursor: 'pointer', fontWeight: 650 } }}>
      <summary>Measure it with check points</summary>
      <ToggleButtonGroup
        size="small"
        exclusive
        value={way}
        onChange={(_, value: typeof way | null) => value && setWay(value)}
        aria-label="Where check points come from"
        sx={{ my: 1 }}
      >
        <ToggleButton value="match">Match two datasets</ToggleButton>
        <ToggleButton value="pick">Pick on maps</ToggleButton>
        <ToggleButton value="paste">Paste</ToggleButton>
      </ToggleButtonGroup>
      {way === 'match' && (
        <Match project={project} row={row} others={others} unit={unit} onFound={(pairs) => setText(pairs.map(lineOf).join('\n'))} />
      )}
      {way === 'pick' && <Pick project={project} row={row} others={others} crs={crs} points={points} onPair={(pair) => add([pair])} />}
      <TextField
        multiline
        minRows={3}
        maxRows={8}
        fullWidth
        label="x, y, and both as the better source has them; a point a line"
        value={text}
        onChange={(e) => setText(e.target.value)}
        slotProps={{ htmlInput: { className: 'mono' } }}
        sx={{ my: 1 }}
      />
      {odd.length > 0 && (
        <Typography variant="body2" sx={{ color: 'var(--plum)' }}>
          No four numbers in line {odd.slice(0, 5).join(', ')}
          {odd.length > 5 ? ' …' : ''}: left out.
        </Typography>
      )}
      {words && (
        <Typography variant="body2" role="status">
          {words}.{' '}
          <Button size="small" onClick={() => onState(words)}>
            State it
          </Button>
        </Typography>
      )}
    </Box>
  );
}

function BetterSource({
  others,
  value,
  onChange,
}: {
  others: readonly QualityRow[];
  value: QualityRow | null;
  onChange: (row: QualityRow | null) => void;
}) {
  return (
    <Autocomplete
      options={others}
      value={value}
      getOptionLabel={(o) => o.name}
      isOptionEqualToValue={(a, b) => a.id === b.id}
      onChange={(_, chosen) => onChange(chosen)}
      size="small"
      sx={{ flex: '1 1 260px' }}
      renderInput={(params) => <TextField {...params} label="Better source" />}
    />
  );
}

/** Points of both that are the same thing: by a key, or the nearest. */
function Match({
  project,
  row,
  others,
  unit,
  onFound,
}: Pick<Props, 'project' | 'row' | 'others' | 'unit'> & { onFound: (pairs: readonly CheckPoint[]) => void }) {
  const [better, setBetter] = useState<QualityRow | null>(null);
  const [key, setKey] = useState('');
  const [within, setWithin] = useState('20');
  const match = useMutation({
    mutationFn: () =>
      api.matchPoints(project.key, {
        dataset: row.id,
        better: better?.id ?? '',
        key: key.trim() === '' ? null : key.trim(),
        within: Number(within),
      }),
    onSuccess: ({ pairs }) => onFound(pairs),
  });
  const found = match.data;
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', alignItems: 'flex-start' }}>
        <BetterSource others={others} value={better} onChange={setBetter} />
        <TextField label="Key" value={key} onChange={(e) => setKey(e.target.value)} helperText="Empty: the nearest" sx={{ width: 130 }} />
        <TextField
          label={`Within, ${unit}`}
          type="number"
          value={within}
          onChange={(e) => setWithin(e.target.value)}
          disabled={key.trim() !== ''}
          sx={{ width: 110 }}
        />
        <Button variant="outlined" disabled={!better || match.isPending || !(Number(within) > 0)} onClick={() => match.mutate()}>
          {match.isPending ? 'Matching…' : 'Match'}
        </Button>
      </Box>
      {match.isError && <ErrorState error={match.error} />}
      {found && (
        <Typography variant="body2" role="status">
          {many(found.pairs.length, 'pair')} found; {number(found.unmatched)} without a like, {number(found.ambiguous)} with several
          {found.left > 0 ? `; ${number(found.left)} more pairs are left out` : ''}.
        </Typography>
      )}
    </>
  );
}

/** First a place in the data, then the same place in the better source. */
function Pick({
  project,
  row,
  others,
  crs,
  points,
  onPair,
}: Pick<Props, 'project' | 'row' | 'others' | 'crs'> & { points: readonly CheckPoint[]; onPair: (pair: CheckPoint) => void }) {
  const [better, setBetter] = useState<QualityRow | null>(null);
  const [first, setFirst] = useState<readonly [number, number] | null>(null);
  const link = useViewLink();
  const [own, other] = useMemo((): [Marks[], Marks[]] => {
    const numbered = (places: Marks['places']): Marks => ({ places, shape: 'cross', isNumbered: true });
    const [here, there] = [points.map((p) => [p.x, p.y] as const), points.map((p) => [p.referenceX, p.referenceY] as const)];
    return [[numbered(first ? [...here, first] : here)], [numbered(there)]];
  }, [points, first]);
  const pick = useCallback(
    (at: readonly [number, number]) => {
      if (!first) return;
      onPair({ x: first[0], y: first[1], referenceX: at[0], referenceY: at[1] });
      setFirst(null);
    },
    [first, onPair],
  );
  return (
    <>
      <BetterSource others={others} value={better} onChange={setBetter} />
      <Typography variant="body2" role="status" sx={{ my: 0.5 }}>
        {!better
          ? 'Choose the better source first.'
          : first
            ? `Now the same place in ${better.name.slice(better.name.lastIndexOf('/') + 1)}.`
            : 'Click a place in the data on the left: or go there with the arrow keys and press Enter.'}
      </Typography>
      {better && (
        <Suspense fallback={<Box sx={{ height: HEIGHT + 20 }} />}>
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
            <PreviewMap
              projectKey={project.key}
              dataset={row.id}
              name={row.name}
              crs={crs}
              height={HEIGHT}
              marks={own}
              link={link}
              onPick={setFirst}
            />
            <PreviewMap
              projectKey={project.key}
              dataset={better.id}
              name={better.name}
              crs={crs}
              height={HEIGHT}
              marks={other}
              link={link}
              onPick={first ? pick : undefined}
            />
          </Box>
        </Suspense>
      )}
    </>
  );
}
