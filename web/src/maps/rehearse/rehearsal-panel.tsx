import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { EditRequest, PathRequest, ProjectView, RehearsedView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { usePlaces } from '../../api/queries.js';
import { EditDialog } from '../../folders/edit-dialog.js';
import { useSettled } from '../../folders/use-edit.js';
import { FolderChooser } from '../../parts/folder-chooser.js';
import { many } from '../../parts/format.js';
import { PathText } from '../../parts/path-text.js';
import { ErrorState, Waiting } from '../../parts/states.js';
import { STATE_COLOUR, STATE_WORD, Tether } from '../../parts/tether.js';
import { VirtualTable } from '../../parts/virtual-table.js';
import { firstScenario, requestOf, SCENARIO_WORDS, type Scenario, type ScenarioKind } from './scenario.js';

interface Props {
  readonly project: ProjectView;
  /** From the root; null: all maps. */
  readonly map: string | null;
  readonly hasUnsaved: boolean;
}

const FIX_WORDS = {
  relative: 'store it relatively',
  'bring-in': 'bring its data in',
  respell: 'spell it as on disk',
  shorten: 'shorten its names',
} as const;

/** What would become of every layer if something happened: worked out, not done; and one button that makes it safe. */
export function RehearsalPanel({ project, map, hasUnsaved }: Props) {
  const places = usePlaces();
  const rootName = project.path.slice(project.path.lastIndexOf('/') + 1) || project.place;
  const [scenario, setScenario] = useState<Scenario>({ kind: 'stick', drive: 'G:' });
  const [choosing, setChoosing] = useState<'scenario' | 'real' | null>(null);
  const [isSafe, setSafe] = useState(false);
  const [real, setReal] = useState<EditRequest | null>(null);
  const request = useSettled(requestOf(scenario, map, rootName), 250);
  const told = useQuery({
    queryKey: ['project', project.key, 'rehearsal', request],
    queryFn: () => api.rehearse(project.key, request!),
    enabled: request !== null,
    retry: false,
    placeholderData: (before) => before,
  });
  const view = request === null ? null : (told.data ?? null);
  const broken = view?.layers.filter((l) => l.isBroken) ?? [];
  const styles = view?.layers.filter((l) => l.lostStyle !== null).length ?? 0;
  const fixable = broken.filter((l) => l.fix !== null && l.fix !== 'shorten');
  const fixes: EditRequest | null =
    fixable.length === 0
      ? null
      : { kind: 'references', layers: fixable.map((l) => ({ map: l.map, layer: l.layer, act: l.fix as 'relative' })) };
  const from: PathRequest = { place: project.place, path: project.path };
  const isMove = scenario.kind === 'move' || scenario.kind === 'stick' || scenario.kind === 'long';
  const startReal = (into: PathRequest): void => {
    const to = { place: into.place, path: into.path === '' ? rootName : `${into.path}/${rootName}` };
    setReal(
      scenario.kind === 'move' ? { kind: 'move', moves: [{ from, to }], evenOriginals: true, grown: null } : { kind: 'copy', from, to },
    );
  };
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
      <Box sx={{ p: 1.5, display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center' }}>
        <TextField
          select
          size="small"
          label="What will happen"
          value={scenario.kind}
          onChange={(e) => setScenario(firstScenario(e.target.value as ScenarioKind, places.data ?? [], project.place))}
          sx={{ minWidth: 300, flex: '1 1 300px', maxWidth: 420 }}
        >
          {Object.entries(SCENARIO_WORDS).map(([kind, words]) => (
            <MenuItem key={kind} value={kind}>
              {words}
            </MenuItem>
          ))}
        </TextField>
        {scenario.kind === 'move' && (
          <Button variant="outlined" onClick={() => setChoosing('scenario')}>
            {scenario.to ? `Into ${scenario.to.place}/${scenario.to.path}` : 'Choose the folder…'}
          </Button>
        )}
        {(scenario.kind === 'stick' || scenario.kind === 'drive') && (
          <>
            {scenario.kind === 'drive' && (
              <PlaceChoice
                value={scenario.place}
                names={(places.data ?? []).map((p) => p.name)}
                onChange={(place) => setScenario({ ...scenario, place })}
              />
            )}
            <TextField
              size="small"
              label={scenario.kind === 'stick' ? 'The stick is' : 'is called'}
              value={scenario.drive}
              onChange={(e) => setScenario({ ...scenario, drive: e.target.value })}
              sx={{ width: 110 }}
              slotProps={{ htmlInput: { className: 'mono' } }}
            />
          </>
        )}
        {scenario.kind === 'without' && (
          <PlaceChoice
            value={scenario.place}
            names={(places.data ?? []).map((p) => p.name)}
            onChange={(place) => setScenario({ ...scenario, place })}
          />
        )}
        {scenario.kind === 'long' && (
          <TextField
            size="small"
            label="Path"
            value={scenario.path}
            onChange={(e) => setScenario({ ...scenario, path: e.target.value })}
            sx={{ flex: '1 1 260px' }}
            slotProps={{ htmlInput: { className: 'mono' } }}
          />
        )}
      </Box>
      {hasUnsaved && (
        <Typography variant="body2" sx={{ px: 1.5, pb: 1, color: 'var(--ochre)' }}>
          This is worked out from the map file: what is not saved does not count.
        </Typography>
      )}
      {told.isError ? (
        <ErrorState error={told.error} />
      ) : request === null ? (
        <Typography color="text.secondary" sx={{ px: 1.5 }}>
          Say where, and it is worked out which layers would still find their data. Nothing is moved.
        </Typography>
      ) : !view ? (
        <Waiting what="Working out what would become of every layer…" />
      ) : (
        <>
          <Box role="status" aria-live="polite" sx={{ px: 1.5, pb: 1, display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
            <Typography sx={{ fontWeight: 650, flex: '1 1 200px', color: view.broken > 0 ? 'var(--plum)' : 'var(--spruce)' }}>
              {view.broken === 0
                ? `No layer would be lost: ${many(view.sound, 'layer')} of ${view.layers.length} would be sound.`
                : `${many(view.broken, 'layer')} of ${view.layers.length} would be lost.`}
              {styles > 0 &&
                ` ${many(styles, 'style')} would be lost: move ${styles === 1 ? 'its file' : 'their files'} into the project first.`}
            </Typography>
            {fixes && (
              <Button variant="contained" onClick={() => setSafe(true)}>
                Make this move safe
              </Button>
            )}
            {view.broken === 0 && isMove && scenario.kind !== 'long' && (
              <Button
                variant="outlined"
                onClick={() => (scenario.kind === 'move' && scenario.to ? startReal(scenario.to) : setChoosing('real'))}
              >
                {scenario.kind === 'move' ? 'Move it now…' : 'Copy it now…'}
              </Button>
            )}
          </Box>
          <VirtualTable
            label="Layers after it"
            items={view.layers}
            rowHeight={52}
            columns="minmax(0, 1.1fr) 112px minmax(0, 1.3fr)"
            keyOf={(l) => l.key}
            cells={(l) => <Cells l={l} showMap={map === null} />}
          />
        </>
      )}
      {choosing && (
        <FolderChooser
          open
          title={choosing === 'scenario' ? 'Where the root would go' : 'Where the copy goes'}
          useFolderLabel="Use this folder"
          onChoose={(at) => {
            setChoosing(null);
            if (choosing === 'scenario') setScenario({ kind: 'move', to: at });
            else startReal(at);
          }}
          onClose={() => setChoosing(null)}
        />
      )}
      {isSafe && fixes && (
        <EditDialog
          projectKey={project.key}
          title="Make this move safe"
          edit={fixes}
          button={`Fix ${many(fixable.length, 'layer')}`}
          onClose={() => setSafe(false)}
        >
          <Typography color="text.secondary" sx={{ mb: 1.5 }}>
            What is inside is stored relatively, what is outside is copied into the project with its origin. One change, one undo.
          </Typography>
        </EditDialog>
      )}
      {real && (
        <EditDialog
          projectKey={project.key}
          title={real.kind === 'move' ? 'Move the root' : 'Copy the project'}
          edit={real}
          button={real.kind === 'move' ? 'Move it' : 'Copy it'}
          onClose={() => setReal(null)}
        />
      )}
    </Box>
  );
}

const PlaceChoice = ({ value, names, onChange }: { value: string; names: readonly string[]; onChange: (name: string) => void }) => (
  <TextField select size="small" label="Place" value={value} onChange={(e) => onChange(e.target.value)} sx={{ width: 130 }}>
    {names.map((n) => (
      <MenuItem key={n} value={n}>
        {n}
      </MenuItem>
    ))}
  </TextField>
);

const CUT = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

/** Before and after of one layer, and what would keep it. */
function Cells({ l, showMap }: { l: RehearsedView; showMap: boolean }) {
  const bond = { stored: l.stored, reach: l.reach };
  return (
    <>
      <Box role="cell" sx={{ minWidth: 0 }}>
        <Box sx={{ fontWeight: 650, ...CUT }}>{l.title}</Box>
        <Box sx={{ color: 'text.secondary', fontSize: 12, ...CUT }}>{showMap ? l.mapTitle : `${l.stored}, ${l.reach}`}</Box>
      </Box>
      <Box role="cell" sx={{ display: 'flex', alignItems: 'center' }}>
        <Tether bond={{ ...bond, state: l.before }} />
        <Box component="span" aria-hidden sx={{ color: 'text.secondary', fontSize: 12, px: 0.25 }}>
          →
        </Box>
        <Tether bond={{ ...bond, state: l.after }} />
      </Box>
      <Box role="cell" sx={{ minWidth: 0 }}>
        <Box sx={{ color: l.after === 'sound' ? 'inherit' : STATE_COLOUR[l.after], ...CUT }} title={l.detail ?? undefined}>
          {l.before === l.after
            ? `${STATE_WORD[l.after]}${l.after === 'sound' ? '' : ', as it is now'}`
            : `${STATE_WORD[l.before]} → ${STATE_WORD[l.after]}`}
          {l.detail ? `: ${l.detail}` : ''}
          {l.isBroken && l.fix ? ` · ${FIX_WORDS[l.fix]}` : ''}
          {l.lostStyle !== null && (
            <Box component="span" title={l.lostStyle} sx={{ color: 'var(--plum)' }}>
              {' · its style would be lost'}
            </Box>
          )}
        </Box>
        <PathText path={l.leadsTo ?? 'nowhere'} most={60} isInRow />
      </Box>
    </>
  );
}
