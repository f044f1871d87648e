import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { AppliedView, MendLayerView, MendProjectView, MendRequest, PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, useMend } from '../api/queries.js';
import { useApplyEdit } from '../folders/use-edit.js';
import { useOpenProject } from '../frame/use-project.js';
import { many } from '../parts/format.js';
import { EmptyState, ErrorState, Sheet, Waiting } from '../parts/states.js';
import { ExplainColumn } from './explain-column.js';
import { PointDialog } from './point-dialog.js';
import { ProofColumn } from './proof-column.js';
import { ReplaceDialog } from './replace-dialog.js';
import { StyleList } from './style-list.js';
import { WrongColumn } from './wrong-column.js';

/** Folders added to the search, as the address bar keeps them: `place:path`, one parameter each. */
const searchOf = (search: URLSearchParams): PathRequest[] =>
  search.getAll('in').map((text) => ({ place: text.slice(0, text.indexOf(':')), path: text.slice(text.indexOf(':') + 1) }));

/** What is wrong, what explains it, the proof; then one button for everything that is certain. */
export function MendPage() {
  const project = useOpenProject();
  const [search] = useSearchParams();
  const folders = useMemo(() => searchOf(search), [search]);
  const mend = useMend(project.key, folders);
  if (mend.isError) return <ErrorState error={mend.error} onRetry={() => void mend.refetch()} />;
  if (!mend.data) return <Waiting what="Looking for where the data went…" />;
  if (mend.data.layers.length === 0 && mend.data.styles.length === 0)
    return (
      <EmptyState
        title="Every layer is sound"
        action={
          <Button component={Link} to={`/p/${project.key}/send`} variant="contained">
            Make a bundle
          </Button>
        }
      >
        Nothing is to be mended in {project.title}. When data moves, its layers turn up here with what explains them.
      </EmptyState>
    );
  return mend.data.layers.length === 0 ? <OnlyStyles view={mend.data} folders={folders} /> : <Mend view={mend.data} folders={folders} />;
}

/** Says what was done and what is left, with the undo, and looks again. */
function useTold() {
  const project = useOpenProject();
  const { enqueueSnackbar } = useSnackbar();
  const client = useQueryClient();
  return async (what: string, done: AppliedView): Promise<void> => {
    const maps = many(done.change?.files.filter((f) => f.endsWith('.owc.json')).length ?? 0, 'map');
    enqueueSnackbar(`${what} in ${maps}; ${done.left === 0 ? 'every layer is sound now' : `${done.left} left`}. The journal takes it back.`, {
      action: done.change ? () => <UndoButton id={done.change!.id} /> : undefined,
    });
    await client.invalidateQueries({ queryKey: keys.project(project.key) });
  };
}

function useApply(folders: readonly PathRequest[]) {
  const project = useOpenProject();
  const told = useTold();
  return useMutation({
    mutationFn: ({ choices = [], styles = [] }: Partial<Pick<MendRequest, 'choices' | 'styles'>>) =>
      api.applyMend(project.key, { choices, styles, search: folders }),
    onSuccess: (done, { choices = [], styles = [] }) => {
      const what = [
        ...(choices.length ? [many(choices.length, 'layer')] : []),
        ...(styles.length ? [many(styles.length, 'style')] : []),
      ].join(' and ');
      return told(`${what} mended`, done);
    },
  });
}

/** 'Not this one' is kept for good; the snackbar takes all of a layer's back. */
function useReject(folders: readonly PathRequest[]) {
  const project = useOpenProject();
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
  const client = useQueryClient();
  const again = (): Promise<void> => client.invalidateQueries({ queryKey: ['project', project.key, 'mend'] });
  return useMutation({
    mutationFn: (which: { key: string; path: string }) => api.rejectCandidate(project.key, { ...which, search: folders }),
    onSuccess: async (_, { key }) => {
      enqueueSnackbar('Remembered: this layer is not offered that dataset again.', {
        action: (id) => (
          <Button
            color="inherit"
            onClick={() => {
              closeSnackbar(id);
              void api.forgiveRejected(project.key, [key]).then(again);
            }}
          >
            Offer it again
          </Button>
        ),
      });
      await again();
    },
  });
}

/** All data is there; only styles are not. */
function OnlyStyles({ view, folders }: { view: MendProjectView; folders: readonly PathRequest[] }) {
  const apply = useApply(folders);
  return (
    <Box sx={{ p: 1.5, maxWidth: 720 }}>
      <Sheet>
        <Box sx={{ p: 1.75, pb: 1 }}>
          <Typography variant="h2">Every layer has its data</Typography>
          {apply.isError && <ErrorState error={apply.error} />}
        </Box>
        <StyleList styles={view.styles} busy={apply.isPending} onMend={(styles) => apply.mutate({ styles: styles.map((s) => s.key) })} />
      </Sheet>
    </Box>
  );
}

function Mend({ view, folders }: { view: MendProjectView; folders: readonly PathRequest[] }) {
  const project = useOpenProject();
  const [search, setSearch] = useSearchParams();
  const [pointing, setPointing] = useState<MendLayerView | null>(null);
  const [replacing, setReplacing] = useState<{ layer: MendLayerView; isWhatStandsThere: boolean } | null>(null);
  const told = useTold();
  const layer = view.layers.find((l) => l.key === search.get('layer')) ?? view.layers[0]!;
  const set = (change: (next: URLSearchParams) => void): void =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before);
        change(next);
        return next;
      },
      { replace: true },
    );
  const select = (key: string): void => set((s) => s.set('layer', key));
  const apply = useApply(folders);
  const reject = useReject(folders);
  const edit = useApplyEdit(project.key, () => undefined);
  const certain = view.layers.filter((l) => l.verdict === 'certain' && l.candidates[0]);
  const certainStyles = view.styles.filter((s) => s.verdict === 'certain').map((s) => s.key);
  const choose = (layers: readonly MendLayerView[]): { key: string; path: string }[] =>
    layers.map((l) => ({ key: l.key, path: l.candidates[0]!.path }));
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(300px, 1fr) minmax(320px, 1.05fr) minmax(360px, 1.1fr)',
        gap: 1.5,
        p: 1.5,
        height: '100%',
        boxSizing: 'border-box',
      }}
    >
      <Column
        title="What is wrong"
        subtitle={`${many(view.layers.length, 'layer')} of ${project.maps.reduce((n, m) => n + m.layers.length, 0)}, in ${many(new Set(view.layers.map((l) => l.map)).size, 'map')}${view.styles.length > 0 ? `; ${many(view.styles.length, 'style file')} below` : ''}`}
      >
        <WrongColumn layers={view.layers} selected={layer} onSelect={select} />
        {view.styles.length > 0 && (
          <StyleList styles={view.styles} busy={apply.isPending} onMend={(styles) => apply.mutate({ styles: styles.map((s) => s.key) })} />
        )}
      </Column>
      <Column
        title="What explains it"
        subtitle={`${many(view.shifts.length, 'explanation')}; looked through ${many(view.searched.datasets, 'dataset')}${view.searched.isStopped ? '; the places hold more: add the folder to search' : ''}`}
      >
        <ExplainColumn
          view={view}
          selected={layer}
          onSelect={select}
          busy={apply.isPending}
          onMend={(layers) => apply.mutate({ choices: choose(layers) })}
          onPoint={setPointing}
          folders={folders}
          onFolder={(at) => set((s) => s.append('in', `${at.place}:${at.path}`))}
          onForget={(at) => set((s) => s.delete('in', `${at.place}:${at.path}`))}
        />
      </Column>
      <Column title="Proof" subtitle={proofSubtitle(view, layer)}>
        {apply.isError && <ErrorState error={apply.error} />}
        {(reject.isError || edit.isError) && <ErrorState error={reject.error ?? edit.error} />}
        <ProofColumn
          layer={layer}
          busy={apply.isPending || reject.isPending || edit.isPending}
          onPoint={() => setPointing(layer)}
          onUse={(path) => apply.mutate({ choices: [{ key: layer.key, path }] })}
          onRebuild={(dataset) => edit.mutate({ kind: 'rebuild-index', dataset })}
          onReject={(path) => reject.mutate({ key: layer.key, path })}
          onReplace={(isWhatStandsThere) => setReplacing({ layer, isWhatStandsThere })}
        >
          {certain.length > 0 ? (
            <>
              <Button
                variant="contained"
                size="medium"
                disabled={apply.isPending}
                onClick={() => apply.mutate({ choices: choose(certain), styles: certainStyles })}
              >
                Mend {many(certain.length, 'certain layer')}
                {certainStyles.length > 0 && ` and ${many(certainStyles.length, 'style')}`} in{' '}
                {many(new Set(certain.map((l) => l.map)).size, 'map')}
              </Button>
              <Typography variant="body2" color="text.secondary">
                1 undo brings all back
              </Typography>
            </>
          ) : (
            <Typography variant="body2" color="text.secondary">
              Nothing is certain here, so nothing is chosen for you.
            </Typography>
          )}
        </ProofColumn>
      </Column>
      {replacing && (
        <ReplaceDialog
          projectKey={project.key}
          {...replacing}
          onClose={() => setReplacing(null)}
          onDone={(done) => {
            setReplacing(null);
            void told(`${many(done.applied, 'layer')} given other data`, done);
          }}
        />
      )}
      {pointing && (
        <PointDialog
          projectKey={project.key}
          layer={pointing}
          folders={folders}
          onClose={() => setPointing(null)}
          onMend={(choices) => apply.mutateAsync({ choices })}
        />
      )}
    </Box>
  );
}

function UndoButton({ id }: { id: string }) {
  const { enqueueSnackbar } = useSnackbar();
  const undo = useMutation({ mutationFn: () => api.undo(id), onSuccess: () => enqueueSnackbar('Undone. Every file is as it was before.') });
  return (
    <Button color="inherit" onClick={() => undo.mutate()} disabled={undo.isPending || undo.isSuccess}>
      Undo
    </Button>
  );
}

function proofSubtitle(view: MendProjectView, layer: MendLayerView): string {
  const shift = layer.shift === null ? null : view.shifts[layer.shift];
  return shift ? `${layer.title} · ${shift.layers.indexOf(layer.key) + 1} of ${shift.layers.length} in this explanation` : layer.title;
}

function Column({ title, subtitle, children }: { title: string; subtitle: string; children: React.ReactNode }) {
  return (
    <Sheet sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      <Box sx={{ p: 1.75, pb: 1 }}>
        <Typography variant="h2">{title}</Typography>
        <Typography variant="body2" color="text.secondary">
          {subtitle}
        </Typography>
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto' }} tabIndex={0} role="region" aria-label={title}>
        {children}
      </Box>
    </Sheet>
  );
}
