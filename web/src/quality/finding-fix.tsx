import { Button } from '@mui/material';
import { useState } from 'react';
import { CHECKS, type CheckCode } from '@rootmap/core';
import type { ProjectView, QualityRow } from '@rootmap/core/contract';
import { useGeodatabases, useSources } from '../api/queries.js';
import { ImportDialog } from '../geodatabases/import-dialog.js';
import { NewGeodatabaseDialog } from '../geodatabases/new-geodatabase-dialog.js';
import { CopiesDialog } from '../sources/copies-dialog.js';
import { DatasetDialogs, type DatasetAct } from '../sources/dataset-dialogs.js';
import { rowsOf } from '../sources/dataset-rows.js';
import { CodesDialog } from './codes-dialog.js';

type Act = Extract<DatasetAct, 'rows' | 'read' | 'crs' | 'origin'> | 'copy' | 'repair' | 'codes';

/** What can be done at once about what a check found. */
const ACTS: Partial<Readonly<Record<CheckCode, Act>>> = {
  crs: 'crs',
  'project-crs': 'copy',
  metadata: 'origin',
  'stated-date': 'origin',
  'invalid-shapes': 'repair',
  codes: 'codes',
  'type-misfit': 'read',
  encoding: 'read',
  'same-record': 'rows',
  'same-key': 'rows',
  'same-shape': 'rows',
  'empty-shapes': 'rows',
  outliers: 'rows',
  'stray-spaces': 'rows',
};
const WORD: Readonly<Record<Act, string>> = {
  crs: 'State its CRS',
  copy: 'Copy it into the CRS of the project',
  origin: 'Write its origin down',
  repair: 'Repair it into a working copy',
  codes: 'Change the list of codes',
  read: 'Read it otherwise',
  rows: 'Look at its records',
};

/** Only tables of text can be read otherwise, and nothing is written beside data of others. */
const isPossible = (act: Act, row: QualityRow, isLinked: boolean): boolean =>
  act === 'read' ? /\.(csv|tsv|txt)$/i.test(row.id) && !isLinked : act !== 'crs' || !isLinked;

/** One press from a finding to what puts it right, each of which can be undone; in words where there is none. */
export function FindingFix({ project, row, code }: { project: ProjectView; row: QualityRow; code: CheckCode }) {
  const [isOpen, setOpen] = useState(false);
  const act = ACTS[code];
  const dataset = project.datasets.find((d) => d.id === row.id);
  if (!act || !dataset || !isPossible(act, row, dataset.link !== null))
    return <div style={{ color: 'var(--soft)' }}>{CHECKS[code].fix}</div>;
  return (
    <>
      <Button size="small" variant="outlined" sx={{ mr: 1, mt: 0.5 }} onClick={() => setOpen(true)}>
        {WORD[act]}
      </Button>
      {isOpen && <FixDialog project={project} row={row} act={act} onClose={() => setOpen(false)} />}
    </>
  );
}

function FixDialog({ project, row, act, onClose }: { project: ProjectView; row: QualityRow; act: Act; onClose: () => void }) {
  const sources = useSources(project.key).data;
  if (act === 'copy') return <CopiesDialog project={project} ids={[row.id]} onClose={onClose} />;
  if (act === 'repair') return <RepairDialog project={project} id={row.id} onClose={onClose} />;
  if (act === 'codes') return <CodesDialog project={project} row={row} onClose={onClose} />;
  const [found] = rowsOf(
    project.datasets.filter((d) => d.id === row.id),
    sources?.sources ?? [],
  );
  return found && sources ? <DatasetDialogs project={project} sources={sources} row={found} act={act} onClose={onClose} /> : null;
}

/** A working copy in a geodatabase, its areas made valid; where there is none yet, it is made first. */
function RepairDialog({ project, id, onClose }: { project: ProjectView; id: string; onClose: () => void }) {
  const view = useGeodatabases(project.key).data;
  const [made, setMade] = useState<string | null>(null);
  if (!view) return null;
  const own = view.containers.filter((c) => c.link === null);
  const into = made ?? (own.find((c) => c.isWorking) ?? own[0])?.shownPath ?? null;
  return into === null ? (
    <NewGeodatabaseDialog project={project} onClose={onClose} onMade={setMade} />
  ) : (
    <ImportDialog project={project} into={into} first={[id]} isMadeValid onClose={onClose} />
  );
}
