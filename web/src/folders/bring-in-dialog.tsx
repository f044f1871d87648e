import { Box, Button, Checkbox, Dialog, DialogActions, DialogContent, DialogTitle, MenuItem, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { withParents, type PlanFolder } from '@rootmap/core';
import type { AdoptView, EditRequest, FoldersView, PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, usePlans } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { VirtualTable } from '../parts/virtual-table.js';
import { firstOf, PlanChoice, type PlanDraft } from '../plans/plan-choice.js';
import { draftFault, foldersOf } from '../plans/plan-editor.js';
import { EditDialog } from './edit-dialog.js';
import { nameOf } from './folder-rows.js';
import { inRoot } from './moves.js';

const ROW = 34;
const COLUMNS = '34px minmax(200px, 1.2fr) minmax(190px, 1fr) minmax(160px, 1fr) 76px';

interface Props {
  readonly projectKey: string;
  readonly view: FoldersView;
  /** A grown folder outside the project; null: the folder itself becomes a project. */
  readonly grown: PathRequest | null;
  readonly onClose: () => void;
}

/** A grown folder finds its places: first the plan, then a place for each thing, then everything that would change. Nothing moves before. */
export function BringInDialog(props: Props) {
  const project = useOpenProject();
  const { projectKey, view, grown, onClose } = props;
  const plans = usePlans();
  const [title, setTitle] = useState(project.title);
  const [plan, setPlan] = useState<PlanDraft | null>(null);
  const [isPlanned, setPlanned] = useState(grown !== null);
  const [edit, setEdit] = useState<EditRequest | null>(null);
  const draft = plan ?? (plans.data ? firstOf(plans.data) : null);
  const folders = useMemo(() => (grown === null ? (draft ? foldersOf(draft.draft) : []) : foldersOfProject(view)), [grown, draft, view]);
  const name = grown === null ? project.title : nameOf(grown.path);
  if (edit)
    return (
      <EditDialog
        projectKey={projectKey}
        title={grown === null ? `Make ${title} a project` : `Bring ${name} in`}
        edit={edit}
        button={grown === null ? 'Make it a project' : 'Bring it in'}
        onClose={onClose}
      />
    );
  return (
    <Dialog open onClose={onClose} maxWidth={isPlanned ? 'lg' : 'sm'} fullWidth aria-labelledby="bring-title">
      <DialogTitle id="bring-title" variant="h2">
        {grown === null ? 'Make this folder a project' : `Bring ${name} in`}
      </DialogTitle>
      {!isPlanned ? (
        <>
          <DialogContent sx={{ display: 'grid', gap: 1.5, '&&': { pt: 1 } }}>
            <TextField label="Title" value={title} onChange={(e) => setTitle(e.target.value)} />
            <PlanChoice value={draft} onChange={setPlan} />
          </DialogContent>
          <DialogActions sx={{ px: 3, pb: 2 }}>
            <Button onClick={onClose}>Cancel</Button>
            <Button
              variant="contained"
              disabled={!draft || draftFault(draft.draft) !== null || title.trim() === ''}
              onClick={() => setPlanned(true)}
            >
              See where each thing would go
            </Button>
          </DialogActions>
        </>
      ) : (
        <Places
          {...props}
          folders={folders}
          onNext={(moves) =>
            setEdit(
              grown === null
                ? { kind: 'adopt', title: title.trim(), crs: project.crs, folders, moves }
                : {
                    kind: 'move',
                    grown,
                    evenOriginals: false,
                    moves: moves.map((m) => ({
                      from: { place: grown.place, path: `${grown.path}/${m.path}` },
                      to: inRoot(project, `${m.folder}/${nameOf(m.path)}`),
                    })),
                  },
            )
          }
        />
      )}
    </Dialog>
  );
}

const foldersOfProject = (view: FoldersView): PlanFolder[] =>
  Object.entries(view.roles).map(([path, role]) => ({ path, role: role as PlanFolder['role'], note: '' }));

type Move = { readonly path: string; readonly folder: string };

function Places({
  projectKey,
  grown,
  folders,
  onClose,
  onNext,
}: Props & { folders: readonly PlanFolder[]; onNext: (moves: Move[]) => void }) {
  const body = { folders, grown };
  const proposals = useQuery({
    queryKey: keys.of(projectKey, 'adoption', body),
    queryFn: () => api.adoption(projectKey, body),
    gcTime: 0,
    staleTime: Infinity,
  });
  const [left, flip] = useToggled();
  const [chosen, setChosen] = useState<Readonly<Record<string, string>>>({});
  if (proposals.isError) return <ErrorState error={proposals.error} onRetry={() => void proposals.refetch()} />;
  if (!proposals.data) return <Waiting what="Looking at what is there…" />;
  const all = proposals.data.proposals;
  const folderOf = (p: AdoptView['proposals'][number]): string | null => chosen[p.path] ?? p.folder;
  const moves = all.flatMap((p): Move[] => {
    const folder = folderOf(p);
    return folder !== null && !left.has(p.path) ? [{ path: p.path, folder }] : [];
  });
  return (
    <>
      <DialogContent sx={{ display: 'flex', flexDirection: 'column', height: 470, pb: 0 }}>
        <Typography color="text.secondary" sx={{ mb: 1 }}>
          A place is proposed for each thing, with the reason. Change it, or take the tick away to leave a thing where it is. Nothing moves
          before you have seen all that would change.
        </Typography>
        <ProposalRows
          all={all}
          left={left}
          folderOf={folderOf}
          folders={withParents([...folders.map((f) => f.path).filter((p) => !p.includes('<')), ...all.flatMap((p) => p.folder ?? [])])}
          onFlip={flip}
          onChoose={(path, folder) => setChosen((c) => ({ ...c, [path]: folder }))}
        />
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Typography variant="body2" sx={{ flex: 1, color: 'var(--soft)' }}>
          {many(moves.length, 'thing')} of {all.length} would move
        </Typography>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={grown !== null && moves.length === 0} onClick={() => onNext(moves)}>
          Show all that would change
        </Button>
      </DialogActions>
    </>
  );
}

interface RowsProps {
  readonly all: AdoptView['proposals'];
  readonly left: ReadonlySet<string>;
  readonly folders: readonly string[];
  readonly folderOf: (p: AdoptView['proposals'][number]) => string | null;
  readonly onFlip: (path: string) => void;
  readonly onChoose: (path: string, folder: string) => void;
}

function ProposalRows({ all, left, folders, folderOf, onFlip, onChoose }: RowsProps) {
  return (
    <VirtualTable
      label="Proposed places"
      items={all}
      keyOf={(p) => p.path}
      rowHeight={ROW}
      columns={COLUMNS}
      sx={{ border: '1px solid var(--rule)', borderRadius: 1 }}
      cells={(p) => {
        const folder = folderOf(p);
        return (
          <>
            <Box role="cell">
              <Checkbox
                size="small"
                checked={folder !== null && !left.has(p.path)}
                disabled={folder === null}
                onChange={() => onFlip(p.path)}
                slotProps={{ input: { 'aria-label': `Move ${p.path}` } }}
              />
            </Box>
            <Box role="cell" sx={{ minWidth: 0, overflow: 'hidden' }}>
              <PathText path={p.path} most={44} />
            </Box>
            <Box role="cell" sx={{ minWidth: 0 }}>
              <TextField
                select
                variant="standard"
                fullWidth
                value={folder ?? ''}
                onChange={(e) => onChoose(p.path, e.target.value)}
                slotProps={{ htmlInput: { 'aria-label': `Place of ${p.path}` }, select: { displayEmpty: true, className: 'mono' } }}
              >
                <MenuItem value="" disabled>
                  stays where it is
                </MenuItem>
                {folders.map((f) => (
                  <MenuItem key={f} value={f} className="mono">
                    {f}
                  </MenuItem>
                ))}
              </TextField>
            </Box>
            <Box
              role="cell"
              sx={{ color: 'var(--soft)', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
              title={p.why}
            >
              {p.why}
            </Box>
            <Box role="cell" sx={{ textAlign: 'right' }}>
              {bytes(p.bytes)}
            </Box>
          </>
        );
      }}
    />
  );
}
