import { Box, Button, LinearProgress, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useMemo, useState, type ComponentProps, type ReactNode } from 'react';
import { useSearchParams } from 'react-router';
import type { AppliedView, MendLayerView, MendProjectView, PathRequest, SearchRequest } from '@rootmap/core/contract';
import { useApplyEdit } from '../folders/use-edit.js';
import { sideBySide } from '../parts/side-by-side.js';
import { many, number } from '../parts/format.js';
import { ErrorState, Sheet, Waiting } from '../parts/states.js';
import { bestOf } from './choices.js';
import { ExplainColumn } from './explain-column.js';
import { ofMap, mapsOf } from './of-map.js';
import { PointDialog } from './point-dialog.js';
import { ProofColumn } from './proof-column.js';
import { ReplaceDialog } from './replace-dialog.js';
import { StyleList } from './style-list.js';
import { useSubject } from './subject.js';
import { useApply, useReject, useTold } from './use-mend-actions.js';
import { useMend, useSearchItem, type Mending } from './use-mend.js';
import { WhatRemains } from './what-remains.js';
import { WrongColumn } from './wrong-column.js';
import { useUrlState } from '../parts/use-url-state.js';

/** Folders added to the search, as the address bar keeps them: `place:path`, one parameter each. */
const searchOf = (search: URLSearchParams): PathRequest[] =>
  search.getAll('in').map((text) => ({ place: text.slice(0, text.indexOf(':')), path: text.slice(text.indexOf(':') + 1) }));

/** What is wrong, what explains it, the proof; then one button for everything that is certain. `whenSound` where nothing is wrong. */
export function MendView({ whenSound }: { whenSound: ReactNode }) {
  const { key } = useSubject();
  const [search] = useSearchParams();
  const folders = useMemo(() => searchOf(search), [search]);
  const mending = useMend(key, folders);
  const view = mending.view && ofMap(mending.view, search.get('map'));
  if (mending.error) return <ErrorState error={mending.error} onRetry={mending.retry} />;
  if (!view) return <FirstLook />;
  if (mending.view.layers.length === 0 && mending.view.styles.length === 0) return whenSound;
  if (mending.view.layers.length === 0) return <OnlyStyles view={mending.view} mending={mending} folders={folders} />;
  return <Columns view={view} mending={mending} folders={folders} />;
}

function FirstLook() {
  const item = useSearchItem(useSubject().key);
  return <Waiting what={item === '' ? 'Looking for where the data went…' : `Looking in ${item}`} />;
}

/** All data is there; only styles are not. */
function OnlyStyles({ view, mending, folders }: { view: MendProjectView; mending: Mending; folders: readonly PathRequest[] }) {
  const apply = useApply({ search: folders, reach: mending.reach });
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

function Columns({ view, mending, folders }: { view: MendProjectView; mending: Mending; folders: readonly PathRequest[] }) {
  const subject = useSubject();
  const [search, set] = useUrlState();
  const [open, setOpen] = useState<OpenMendDialog | null>(null);
  const [mended, setMended] = useState<string | null>(null);
  const told = useTold(() => setMended(null));
  const layer = view.layers.find((l) => l.key === search.get('layer')) ?? view.layers[0]!;
  const select = (key: string): void => set({ layer: key });
  const point = (of: MendLayerView): void => setOpen({ kind: 'point', layer: of });
  const searched = { search: folders, reach: mending.reach };
  const apply = useApply(searched, setMended);
  const reject = useReject(searched);
  const edit = useApplyEdit(subject.key, () => undefined);
  return (
    <Box
      sx={{
        ...sideBySide('minmax(0, 1fr) minmax(0, 1.05fr) minmax(0, 1.1fr)'),
        gap: 1.5,
        p: 1.5,
        boxSizing: 'border-box',
      }}
    >
      <Column title="What is wrong" subtitle={wrongSubtitle(view, subject.layers)}>
        <MapChoice view={mending.view!} chosen={search.get('map')} onChoose={(map) => set({ map })} />
        <WrongColumn layers={view.layers} selected={layer} onSelect={select} />
        {view.styles.length > 0 && (
          <StyleList styles={view.styles} busy={apply.isPending} onMend={(styles) => apply.mutate({ styles: styles.map((s) => s.key) })} />
        )}
      </Column>
      <Column
        title="What explains it"
        subtitle={`${many(new Set(view.layers.flatMap((l) => l.shift ?? [])).size, 'explanation')}; looked through ${many(view.searched.datasets, 'dataset')}${view.searched.isStopped ? '; the places hold more: add the folder to search' : ''}`}
      >
        {mending.isWidening && <Widening onStop={mending.stop} />}
        {mended !== null && <WhatRemains mended={mended} layers={view.layers} onClose={() => setMended(null)} onSelect={select} />}
        <ExplainColumn
          view={view}
          selected={layer}
          onSelect={select}
          busy={apply.isPending}
          onMend={(layers) => apply.mutate({ choices: bestOf(layers) })}
          onPoint={point}
          folders={folders}
          onFolder={(at) => set({ in: [...search.getAll('in'), `${at.place}:${at.path}`] })}
          onForget={(at) => set({ in: search.getAll('in').filter((f) => f !== `${at.place}:${at.path}`) })}
        />
      </Column>
      <Column title="Proof" subtitle={proofSubtitle(view, layer)}>
        {apply.isError && <ErrorState error={apply.error} />}
        {(reject.isError || edit.isError) && <ErrorState error={reject.error ?? edit.error} />}
        <ProofColumn
          key={layer.key}
          layer={layer}
          busy={apply.isPending || reject.isPending || edit.isPending}
          onPoint={() => point(layer)}
          onUse={(path) => apply.mutate({ choices: [{ key: layer.key, path, before: layer.before.href }] })}
          onEdit={(request) => edit.mutate(request)}
          onReject={(path) => reject.mutate({ key: layer.key, path })}
          onReplace={(isWhatStandsThere) => setOpen({ kind: 'replace', layer, isWhatStandsThere })}
        >
          <AllCertain view={view} busy={apply.isPending} onMend={apply.mutate} />
        </ProofColumn>
      </Column>
      <MendDialogs
        open={open}
        searched={searched}
        onClose={() => setOpen(null)}
        onMend={(choices) => apply.mutateAsync({ choices })}
        onReplaced={(done) => {
          const what = `${many(done.applied, 'layer')} given other data`;
          setMended(what);
          void told(what, done);
        }}
      />
    </Box>
  );
}

interface AllCertainProps {
  readonly view: MendProjectView;
  readonly busy: boolean;
  readonly onMend: ReturnType<typeof useApply>['mutate'];
}

/** The one button for everything that is certain. */
function AllCertain({ view, busy, onMend }: AllCertainProps) {
  const certain = view.layers.filter((l) => l.verdict === 'certain' && l.candidates[0]);
  const styles = view.styles.filter((s) => s.verdict === 'certain').map((s) => s.key);
  const leaving = certain.filter((l) => l.candidates[0]?.leavesProject).length;
  if (certain.length === 0)
    return (
      <Typography variant="body2" color="text.secondary">
        Nothing is certain here, so nothing is chosen for you.
      </Typography>
    );
  return (
    <>
      <Button variant="contained" size="medium" disabled={busy} onClick={() => onMend({ choices: bestOf(certain), styles })}>
        Mend {many(certain.length, 'certain layer')}
        {styles.length > 0 && ` and ${many(styles.length, 'style')}`} in {many(new Set(certain.map((l) => l.map)).size, 'map')}
      </Button>
      <Typography variant="body2" color="text.secondary">
        {leaving > 0 && `${many(leaving, 'of them leads', 'of them lead')} out of the project. `}1 undo brings all back
      </Typography>
    </>
  );
}

/** Which dialog of Mend is open, and for which layer. */
type OpenMendDialog =
  | { readonly kind: 'point'; readonly layer: MendLayerView }
  | { readonly kind: 'replace'; readonly layer: MendLayerView; readonly isWhatStandsThere: boolean };

interface MendDialogsProps {
  readonly open: OpenMendDialog | null;
  readonly searched: SearchRequest;
  readonly onClose: () => void;
  readonly onMend: ComponentProps<typeof PointDialog>['onMend'];
  readonly onReplaced: (done: AppliedView) => void;
}

function MendDialogs({ open, searched, onClose, onMend, onReplaced }: MendDialogsProps) {
  const { key } = useSubject();
  if (open?.kind === 'point')
    return <PointDialog projectKey={key} layer={open.layer} searched={searched} onClose={onClose} onMend={onMend} />;
  if (open?.kind !== 'replace') return null;
  return (
    <ReplaceDialog
      projectKey={key}
      layer={open.layer}
      isWhatStandsThere={open.isWhatStandsThere}
      onClose={onClose}
      onDone={(done) => {
        onClose();
        onReplaced(done);
      }}
    />
  );
}

/** The known places are looked through because something is not explained by what is near. */
function Widening({ onStop }: { onStop: () => void }) {
  const item = useSearchItem(useSubject().key);
  return (
    <Box sx={{ px: 1.75, pb: 1.25 }}>
      <LinearProgress aria-label="Looking through the places" sx={{ height: 2, mb: 0.5 }} />
      <Stack direction="row" spacing={1} sx={{ alignItems: 'center' }}>
        <Typography variant="body2" color="text.secondary" className="mono" noWrap sx={{ flex: 1 }} title={item}>
          {item === '' ? 'Looking further, in the places' : `Looking further: ${item}`}
        </Typography>
        <Button size="small" onClick={onStop}>
          Stop looking
        </Button>
      </Stack>
    </Box>
  );
}

/** One map, or all of them. */
function MapChoice({ view, chosen, onChoose }: { view: MendProjectView; chosen: string | null; onChoose: (map: string | null) => void }) {
  const maps = mapsOf(view);
  if (maps.length < 2) return null;
  const isThere = maps.some((m) => m.path === chosen);
  return (
    <Box sx={{ px: 1.75, pb: 1 }}>
      <TextField
        select
        size="small"
        fullWidth
        value={isThere ? chosen : ''}
        onChange={(e) => onChoose(e.target.value || null)}
        slotProps={{ htmlInput: { 'aria-label': 'Maps to mend' }, select: { displayEmpty: true } }}
      >
        <MenuItem value="">All maps</MenuItem>
        {maps.map((m) => (
          <MenuItem key={m.path} value={m.path}>
            {m.title}: {many(m.layers, 'layer')}
          </MenuItem>
        ))}
      </TextField>
    </Box>
  );
}

const wrongSubtitle = (view: MendProjectView, layers: number): string =>
  `${many(view.layers.length, 'layer')} of ${number(layers)}, in ${many(new Set(view.layers.map((l) => l.map)).size, 'map')}${view.styles.length > 0 ? `; ${many(view.styles.length, 'style file')} below` : ''}`;

function proofSubtitle(view: MendProjectView, layer: MendLayerView): string {
  const together = layer.shift === null ? [] : view.layers.filter((l) => l.shift === layer.shift);
  return together.length > 0
    ? `${layer.title} · ${number(together.findIndex((l) => l.key === layer.key) + 1)} of ${number(together.length)} in this explanation`
    : layer.title;
}

function Column({ title, subtitle, children }: { title: string; subtitle: string; children: ReactNode }) {
  return (
    <Sheet sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      <Box sx={{ p: 1.75, pb: 1 }}>
        <Typography variant="h2">{title}</Typography>
        <Typography variant="body2" color="text.secondary">
          {subtitle}
        </Typography>
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', position: 'relative' }} tabIndex={0} role="region" aria-label={title}>
        {children}
      </Box>
    </Sheet>
  );
}
