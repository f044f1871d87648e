import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import type { EditRequest, PathRequest, ProjectView, RehearsalView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { EditDialog } from '../../folders/edit-dialog.js';
import { useSettled } from '../../folders/use-edit.js';
import { FolderChooser } from '../../parts/folder-chooser.js';
import { many } from '../../parts/format.js';
import { ErrorState, Waiting } from '../../parts/states.js';
import { VirtualTable } from '../../parts/virtual-table.js';
import { RehearsedCells } from './rehearsed-cells.js';
import { ScenarioFields } from './scenario-fields.js';
import { requestOf, type Scenario } from './scenario.js';
import { keys } from '../../api/queries.js';

interface Props {
  readonly project: ProjectView;
  /** From the root; null: all maps. */
  readonly map: string | null;
  readonly hasUnsaved: boolean;
}

/** What would become of every layer if something happened: worked out, not done; and one button that makes it safe. */
export function RehearsalPanel({ project, map, hasUnsaved }: Props) {
  const rootName = project.path.slice(project.path.lastIndexOf('/') + 1) || project.place;
  const [scenario, setScenario] = useState<Scenario>({ kind: 'stick', drive: 'G:' });
  const [choosing, setChoosing] = useState<'scenario' | 'real' | null>(null);
  const [doing, setDoing] = useState<EditRequest | null>(null);
  const request = useSettled(requestOf(scenario, map, rootName), 250);
  const told = useQuery({
    queryKey: keys.of(project.key, 'rehearsal', request),
    queryFn: () => api.rehearse(project.key, request!),
    enabled: request !== null,
    retry: false,
    placeholderData: (before) => before,
  });
  const view = request === null ? null : (told.data ?? null);
  const fixes = view && fixesOf(view);
  const isMove = scenario.kind === 'move' || scenario.kind === 'stick' || scenario.kind === 'long';
  const startReal = (into: PathRequest): void => setDoing(realEdit(scenario, project, rootName, into));
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
      <ScenarioFields project={project} scenario={scenario} onScenario={setScenario} onChooseFolder={() => setChoosing('scenario')} />
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
          <Told view={view}>
            {fixes && (
              <Button variant="contained" onClick={() => setDoing(fixes)}>
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
          </Told>
          <VirtualTable
            label="Layers after it"
            items={view.layers}
            rowHeight={52}
            columns="minmax(0, 1.1fr) 112px minmax(0, 1.3fr)"
            keyOf={(l) => l.key}
            cells={(l) => <RehearsedCells l={l} showMap={map === null} />}
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
      {doing && <Doing project={project} doing={doing} onClose={() => setDoing(null)} />}
    </Box>
  );
}

/** References that can be written so that their layers are not lost; null: there is none. */
function fixesOf(view: RehearsalView): EditRequest | null {
  const layers = view.layers.flatMap((l) =>
    l.isBroken && l.fix !== null && l.fix !== 'shorten' ? [{ map: l.map, layer: l.layer, act: l.fix }] : [],
  );
  return layers.length === 0 ? null : { kind: 'references', layers };
}

/** What was rehearsed, really done: the root is moved into a folder, or copied there. */
function realEdit(scenario: Scenario, project: ProjectView, rootName: string, into: PathRequest): EditRequest {
  const from = { place: project.place, path: project.path };
  const to = { place: into.place, path: into.path === '' ? rootName : `${into.path}/${rootName}` };
  return scenario.kind === 'move' ? { kind: 'move', moves: [{ from, to }], evenOriginals: true, grown: null } : { kind: 'copy', from, to };
}

/** What became of the layers, in one sentence, with what can be done about it. */
function Told({ view, children }: { view: RehearsalView; children: ReactNode }) {
  const styles = view.layers.filter((l) => l.lostStyle !== null).length;
  return (
    <Box role="status" aria-live="polite" sx={{ px: 1.5, pb: 1, display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
      <Typography sx={{ fontWeight: 650, flex: '1 1 200px', color: view.broken > 0 ? 'var(--plum)' : 'var(--spruce)' }}>
        {view.broken === 0
          ? `No layer would be lost: ${many(view.sound, 'layer')} of ${view.layers.length} would be sound.`
          : `${many(view.broken, 'layer')} of ${view.layers.length} would be lost.`}
        {styles > 0 && ` ${many(styles, 'style')} would be lost: move ${styles === 1 ? 'its file' : 'their files'} into the project first.`}
      </Typography>
      {children}
    </Box>
  );
}

const DOING_WORDS: Readonly<Record<string, { readonly title: string; readonly button: string }>> = {
  move: { title: 'Move the root', button: 'Move it' },
  copy: { title: 'Copy the project', button: 'Copy it' },
};

/** The move itself, or what makes it safe: shown once more before it is done. */
function Doing({ project, doing, onClose }: { project: ProjectView; doing: EditRequest; onClose: () => void }) {
  if (doing.kind !== 'references')
    return <EditDialog projectKey={project.key} {...DOING_WORDS[doing.kind]!} edit={doing} onClose={onClose} />;
  return (
    <EditDialog
      projectKey={project.key}
      title="Make this move safe"
      edit={doing}
      button={`Fix ${many(doing.layers.length, 'layer')}`}
      onClose={onClose}
    >
      <Typography color="text.secondary" sx={{ mb: 1.5 }}>
        What is inside is stored relatively, what is outside is copied into the project with its origin. One change, one undo.
      </Typography>
    </EditDialog>
  );
}
