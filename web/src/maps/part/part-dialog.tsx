import {
  Box,
  Button,
  Checkbox,
  FormControlLabel,
  FormGroup,
  LinearProgress,
  MenuItem,
  Radio,
  RadioGroup,
  TextField,
  Typography,
} from '@mui/material';
import { useState } from 'react';
import { DEFAULT_NAMING, proposeName } from '@rootmap/core';
import type { DraftLayer } from '@rootmap/core/contract';
import { useWorkFolder } from '../../api/queries.js';
import { EXPORT_FORMATS } from '../../exports/export-formats.js';
import { many, number } from '../../parts/format.js';
import { FormDialog } from '../../parts/form-dialog.js';
import { JobActions, SkippedList } from '../../parts/job-actions.js';
import { ErrorState, Waiting } from '../../parts/states.js';
import type { Point } from '../edit/map-plane.js';
import type { MapWork } from '../edit/use-map-work.js';
import { useWorking } from '../edit/use-working.js';
import { PartGoal, type GoalWish } from './part-goal.js';
import { canBe, selectionOf, type PartKnown, type PartWish } from './part-wish.js';
import { usePart, type Goal, type PartPlan } from './use-part.js';

interface Props {
  readonly work: MapWork;
  readonly layer: DraftLayer;
  /** The area that was measured last; null: none was. */
  readonly measured: readonly Point[] | null;
  readonly onClose: () => void;
}

/** Layers whose records can be taken. */
export const layersWithRecords = ({ editor, known }: MapWork): DraftLayer[] =>
  editor.draft.layers.filter((l) => {
    const { data } = known.factsOf(l);
    return data?.dataset != null && data.kind !== 'raster';
  });

/** Some records of a layer become a dataset of their own: by its filter, by hand, by where they lie. */
export function PartDialog({ work, layer: first, measured, onClose }: Props) {
  const { project, path, editor, chosen, scene, known } = work;
  const [id, setId] = useState(first.id);
  const layer = editor.draft.layers.find((l) => l.id === id) ?? first;
  const dataset = known.factsOf(layer).data?.dataset ?? '';
  const [inSight] = useState(() => scene.current?.map.getView().calculateExtent() ?? null);
  const about: PartKnown = { layer, chosen: [...chosen.of(layer.id)], crs: editor.draft.crs, inSight, measured };
  const can = canBe(about);
  const [typed, setTyped] = useState<Partial<PartWish>>({});
  const wish: PartWish = {
    byFilter: can.byFilter,
    byChosen: can.byChosen,
    where: measured ? 'measured' : 'everywhere',
    condition: '',
    ...typed,
  };
  const working = useWorking(project, path, true);
  const folder = useWorkFolder(project.key);
  const [goalWish, setGoalWish] = useState<Partial<GoalWish>>({});
  const goal = goalOf(goalWish, working, folder, layer.title);
  const part = usePart(project, dataset, selectionOf(wish, about), goal);
  const { plan, start, job, made } = part;
  const set = (more: Partial<PartWish>): void => setTyped((before) => ({ ...before, ...more }));
  return (
    <FormDialog
      title={`A part of ${layer.title}`}
      confirm={plan.data && plan.data.why === null ? `Take ${many(plan.data.records, 'record')} out` : 'Take it out'}
      disabled={!part.canStart}
      isBusy={part.isRunning}
      onConfirm={() => start.mutate()}
      onClose={onClose}
      foot={(button) => (
        <JobActions job={job} isRunning={part.isRunning} isDone={part.isDone} onClose={onClose}>
          {button}
        </JobActions>
      )}
    >
      {made ? (
        <Made made={made} onAdd={() => (work.add.mutate([made.id]), onClose())} />
      ) : (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '1fr 1fr' }, gap: 3, mt: 1 }}>
          <Which work={work} layer={layer} wish={wish} can={can} chosen={about.chosen.length} onLayer={setId} onChange={set} />
          <Box>
            <PartGoal goal={goal} working={working} onChange={(more) => setGoalWish((before) => ({ ...before, ...more }))} />
            <Box sx={{ mt: 1.5, fontSize: 13 }} role="status">
              {(plan.error ?? start.error) ? (
                <ErrorState error={start.error ?? plan.error} />
              ) : plan.data ? (
                <Planned plan={plan.data} of={known.factsOf(layer).data?.count ?? null} />
              ) : (
                <Waiting what="Counting the records…" />
              )}
              {job?.state === 'failed' && <Typography color="error">{job.message}</Typography>}
              {part.isRunning && <LinearProgress aria-label="Taking it out" sx={{ mt: 1 }} />}
            </Box>
          </Box>
        </Box>
      )}
    </FormDialog>
  );
}

function goalOf(wish: Partial<GoalWish>, working: string | null, folder: string | null, title: string): Goal {
  const stem = `${proposeName(title, DEFAULT_NAMING)}_part`;
  const kind = wish.kind ?? (working ? 'table' : 'file');
  if (kind === 'table' && working) return { kind, geodatabase: working, table: wish.table ?? stem };
  const format = wish.format ?? 'geopackage';
  const path = wish.stem ?? (folder === null ? '' : `${folder}/${stem}`);
  return { kind: 'file', format, path: path.trim() === '' ? '' : `${path.trim()}.${EXPORT_FORMATS[format].ending}` };
}

interface WhichProps {
  readonly work: MapWork;
  readonly layer: DraftLayer;
  readonly wish: PartWish;
  readonly can: ReturnType<typeof canBe>;
  readonly chosen: number;
  readonly onLayer: (id: string) => void;
  readonly onChange: (more: Partial<PartWish>) => void;
}

function Which({ work, layer, wish, can, chosen, onLayer, onChange }: WhichProps) {
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.25 }}>
      <TextField select size="small" label="Layer" value={layer.id} onChange={(e) => onLayer(e.target.value)}>
        {layersWithRecords(work).map((l) => (
          <MenuItem key={l.id} value={l.id}>
            {l.title}
          </MenuItem>
        ))}
      </TextField>
      <FormGroup>
        <FormControlLabel
          disabled={!can.byFilter}
          control={
            <Checkbox size="small" checked={can.byFilter && wish.byFilter} onChange={(e) => onChange({ byFilter: e.target.checked })} />
          }
          label={can.byFilter ? `Those that its filter draws: ${layer.filter.trim()}` : 'It has no filter'}
        />
        <FormControlLabel
          disabled={!can.byChosen}
          control={
            <Checkbox size="small" checked={can.byChosen && wish.byChosen} onChange={(e) => onChange({ byChosen: e.target.checked })} />
          }
          label={can.byChosen ? `Those that are chosen: ${number(chosen)}` : 'None of its records is chosen'}
        />
      </FormGroup>
      <TextField
        size="small"
        label="And where"
        placeholder="depth_m > 5 AND kind IN ('sand', 'mud')"
        value={wish.condition}
        onChange={(e) => onChange({ condition: e.target.value })}
        slotProps={{ htmlInput: { className: 'mono' } }}
      />
      <RadioGroup value={wish.where} onChange={(_, v) => onChange({ where: v as PartWish['where'] })} aria-label="Where they lie">
        <FormControlLabel value="everywhere" control={<Radio size="small" />} label="Wherever they lie" />
        <FormControlLabel
          value="in-sight"
          disabled={!can.inSight}
          control={<Radio size="small" />}
          label="What meets the part that the map shows now"
        />
        <FormControlLabel
          value="measured"
          disabled={!can.measured}
          control={<Radio size="small" />}
          label={can.measured ? 'What meets the area that was measured' : 'What meets an area: measure one first (More)'}
        />
      </RadioGroup>
      <Typography variant="body2" color="text.secondary">
        Shapes are taken whole, and are not cut at the edge.
      </Typography>
    </Box>
  );
}

const Planned = ({ plan, of }: { plan: PartPlan; of: number | null }) => (
  <>
    {plan.why === null ? (
      <div>
        {many(plan.records, 'record')}
        {of === null ? '' : ` of ${number(of)}`}; where they are from, and how they were taken, is written down with them.
      </div>
    ) : (
      <Box sx={{ color: 'var(--plum)' }}>Not so: {plan.why}.</Box>
    )}
    {plan.notes.map((note) => (
      <Box key={note} sx={{ color: 'text.secondary' }}>
        {note}
      </Box>
    ))}
  </>
);

interface MadeProps {
  readonly made: NonNullable<ReturnType<typeof usePart>['made']>;
  readonly onAdd: () => void;
}
const Made = ({ made, onAdd }: MadeProps) => (
  <Box role="status" sx={{ fontSize: 14 }}>
    {many(made.written, 'record')} written of {number(made.read)} taken
    {made.read === made.written ? '.' : `, ${number(made.read - made.written)} left out:`}
    <SkippedList skipped={made.skipped} />
    <Button variant="outlined" onClick={onAdd} sx={{ mt: 1.5, display: 'block' }}>
      Bring it into this map
    </Button>
  </Box>
);
