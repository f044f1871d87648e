import { Box, Button, Chip, Stack, Typography } from '@mui/material';
import { useMemo, useState } from 'react';
import { groupBy } from '@rootmap/core';
import type { MendLayerView, MendProjectView, MendShiftView, PathRequest } from '@rootmap/core/contract';
import { FolderChooser } from '../parts/folder-chooser.js';
import { day, many, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { Tag } from '../parts/states.js';
import { RedirectOffer } from './redirect-offer.js';

/** So many cards are drawn at once; more on request. */
const CARDS = 60;

const VERDICT_TONE = { certain: 'spruce', likely: 'ochre', possible: 'ochre', none: 'plum' } as const;

interface Props {
  readonly view: MendProjectView;
  readonly selected: MendLayerView;
  readonly busy: boolean;
  readonly folders: readonly PathRequest[];
  readonly onSelect: (key: string) => void;
  readonly onMend: (layers: readonly MendLayerView[]) => void;
  readonly onPoint: (layer: MendLayerView) => void;
  readonly onFolder: (at: PathRequest) => void;
  readonly onForget: (at: PathRequest) => void;
}

/** Explanations, the widest first; then the layers that nothing explains yet, each with what can be done. */
export function ExplainColumn(props: Props) {
  const { view, selected, folders } = props;
  const [choosing, setChoosing] = useState(false);
  const [most, setMost] = useState(CARDS);
  const byShift = useMemo(() => groupBy(view.layers, (l) => l.shift), [view]);
  const unexplained = byShift.get(null) ?? [];
  // The one that explains what is chosen is always there.
  const shown = view.shifts.flatMap((shift, i) => {
    const layers = byShift.get(i);
    return layers && (i < most || selected.shift === i) ? [{ shift, layers, i }] : [];
  });
  const cards = unexplained.filter((l, i) => i < most || l === selected);
  const hidden = byShift.size - (byShift.has(null) ? 1 : 0) - shown.length + unexplained.length - cards.length;
  return (
    <Stack spacing={1.25} sx={{ px: 1.75, pb: 1.75 }}>
      {shown.map(({ shift, layers, i }) => (
        <ShiftCard key={i} shift={shift} layers={layers} chosen={selected.shift === i} {...props} />
      ))}
      {cards.map((l) => (
        <Unexplained key={l.key} layer={l} {...props} />
      ))}
      {hidden > 0 && (
        <Button variant="outlined" onClick={() => setMost(most + CARDS)}>
          Show more: {number(hidden)} left
        </Button>
      )}
      <Box>
        <Button variant="outlined" onClick={() => setChoosing(true)}>
          Add a folder to search
        </Button>
        {view.searched.projects.length > 0 && (
          <Typography variant="body2" color="text.secondary" sx={{ my: 0.5 }}>
            Not looked into, since they are projects of their own:{' '}
            {view.searched.projects.map((p) => p.slice(p.lastIndexOf('/') + 1)).join(', ')}. Add one by itself to look into it.
          </Typography>
        )}
        {folders.map((f) => (
          <Chip
            key={`${f.place}:${f.path}`}
            size="small"
            label={`${f.place}: ${f.path}`}
            onDelete={() => props.onForget(f)}
            sx={{ ml: 1 }}
          />
        ))}
      </Box>
      <FolderChooser
        open={choosing}
        title="Look in this folder too"
        useFolderLabel="Search this folder"
        onClose={() => setChoosing(false)}
        onChoose={(at) => {
          setChoosing(false);
          props.onFolder(at);
        }}
      />
    </Stack>
  );
}

const TITLE: Readonly<Record<MendShiftView['kind'], (n: string) => string>> = {
  folder: (n) => `The data of ${n} stands in another folder`,
  'map-moved': () => 'The map moved, its data did not',
  renamed: (n) => `${n} has another name now`,
  converted: (n) => `${n} put into a geodatabase`,
};

function ShiftCard({
  shift,
  layers,
  chosen,
  onSelect,
  onMend,
  busy,
}: Props & { shift: MendShiftView; layers: readonly MendLayerView[]; chosen: boolean }) {
  const mendable = layers.filter((l) => l.candidates[0]);
  return (
    <Box sx={{ border: `${chosen ? 2 : 1}px solid ${chosen ? 'var(--spruce)' : 'var(--rule)'}`, borderRadius: '6px', p: 1.5 }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'center', mb: 0.5 }}>
        <Box
          component="button"
          onClick={() => onSelect(layers[0]!.key)}
          aria-pressed={chosen}
          sx={{
            border: 0,
            p: 0,
            bgcolor: 'transparent',
            font: 'inherit',
            fontWeight: 650,
            fontSize: 14,
            color: 'var(--ink)',
            cursor: 'pointer',
            textAlign: 'left',
          }}
        >
          {TITLE[shift.kind](many(layers.length, 'layer'))}
        </Box>
        <Tag tone={VERDICT_TONE[shift.verdict]}>{layers.some((l) => l.choice) ? 'a choice' : shift.verdict}</Tag>
      </Stack>
      <div>
        <PathText path={shift.from || 'the place itself'} most={48} struck colour="var(--soft)" />
      </div>
      <div>
        <PathText path={shift.to || 'the place itself'} most={48} />
      </div>
      <Box component="ul" sx={{ m: 0, mt: 0.5, pl: 2, color: 'text.secondary', fontSize: 12.5 }}>
        {shift.evidence.map((e) => (
          <li key={e}>{e}</li>
        ))}
      </Box>
      {mendable.length > 0 && (
        <Button sx={{ mt: 0.75 }} variant="outlined" disabled={busy} onClick={() => onMend(mendable)}>
          Mend {shift.verdict === 'certain' ? 'these' : 'these anyway'}: {many(mendable.length, 'layer')}
        </Button>
      )}
      {shift.redirect && <RedirectOffer redirect={shift.redirect} busy={busy} />}
    </Box>
  );
}

function Unexplained({ layer: l, onSelect, onPoint, onMend, busy }: Props & { layer: MendLayerView }) {
  const best = l.candidates[0];
  const absent = l.before.state === 'absent';
  return (
    <Box sx={{ border: `1px dashed ${absent ? 'var(--stone)' : 'var(--plum)'}`, borderRadius: '6px', p: 1.5 }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between' }}>
        <Box
          component="button"
          onClick={() => onSelect(l.key)}
          sx={{
            border: 0,
            p: 0,
            bgcolor: 'transparent',
            font: 'inherit',
            fontWeight: 650,
            fontSize: 14,
            color: 'var(--ink)',
            cursor: 'pointer',
            textAlign: 'left',
          }}
        >
          {titleOf(l)}
        </Box>
        {best && <Tag tone={VERDICT_TONE[l.verdict]}>{l.choice ? 'a choice' : l.verdict}</Tag>}
      </Stack>
      <Typography variant="body2" color="text.secondary">
        {whatIsKnown(l)}
      </Typography>
      {!absent && (
        <Stack direction="row" spacing={1} sx={{ mt: 0.75 }}>
          {best && (
            <Button variant="outlined" disabled={busy} onClick={() => onMend([l])}>
              Mend this layer
            </Button>
          )}
          <Button variant={best ? 'text' : 'outlined'} onClick={() => onPoint(l)}>
            Point to its data
          </Button>
        </Stack>
      )}
    </Box>
  );
}

function titleOf(l: MendLayerView): string {
  if (l.before.state === 'absent') return `${l.title} waits for its place`;
  if (l.before.reason === 'spelling') return `${l.title} is spelled otherwise on disk`;
  if (l.before.state === 'incomplete') return `${l.title} has lost a file`;
  if (l.before.state === 'unreadable') return `${l.title} cannot be read`;
  if (l.before.state === 'different') return `${l.title} has other data than before`;
  return l.candidates.length ? `${l.title} may be somewhere else` : `${l.title} has no trace yet`;
}

function whatIsKnown(l: MendLayerView): string {
  if (l.before.reason === 'no-answer' || l.before.reason === 'not-offered') return 'It draws on a service, which is asked in Sources.';
  if (l.before.state === 'absent') return 'Its place is not here now: plug it in or connect it, and the layer is sound again.';
  const r = l.remembered;
  if (!r) return 'The map remembers nothing of this data but its name.';
  const parts = [
    r.count === null ? '' : many(r.count, 'record'),
    r.fields ? many(r.fields.length, 'field') : '',
    r.modified ? `last changed ${day(r.modified)}` : '',
  ].filter(Boolean);
  return `Remembered: ${parts.join(', ')}.`;
}
