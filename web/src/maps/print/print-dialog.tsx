import { Box, LinearProgress, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { startTransition, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { MapDraft, ProjectView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { useOwnSources } from '../../api/queries.js';
import { inRoot } from '../../folders/moves.js';
import { loadLand } from '../edit/land-outline.js';
import { tellDone } from '../../journal/tell-done.js';
import { many } from '../../parts/format.js';
import { ErrorState } from '../../parts/states.js';
import type { StackRow } from '../edit/layer-row.js';
import type { Sight } from '../edit/map-canvas.js';
import { PageFields } from './page-fields.js';
import { isGivenUp, PagePreview } from './page-preview.js';
import { firstWish, fittingScale, missingOf, pageSpec, whyNoPage, type Wish } from './page-wish.js';
import type { MapContent } from './render-map.js';
import { writePage, type WrittenPage } from './write-page.js';
import { FormDialog } from '../../parts/form-dialog.js';

interface Props extends MapContent {
  readonly project: ProjectView;
  readonly draft: MapDraft;
  readonly rows: readonly StackRow[];
  readonly sight: Sight | null;
  readonly onClose: () => void;
}

/** What of a page is not as it might be expected. */
function toldOf({ isWhole, asPicture, labelsLeft }: Omit<WrittenPage, 'file'>, draft: MapDraft): string {
  const titles = asPicture.flatMap((id) => draft.layers.find((l) => l.id === id)?.title ?? []);
  return [
    ...(isWhole ? [] : ['Some tiles did not come in time: look at it before you pass it on.']),
    ...(titles.length > 0 ? [`Part of its picture, and not lines: ${titles.join(', ')}.`] : []),
    ...(labelsLeft > 0 ? [`${many(labelsLeft, 'label')} found no room.`] : []),
  ]
    .map((sentence) => ` ${sentence}`)
    .join('');
}

/** The map on paper: what stands on it, its true scale, and what is missing, before anything is written. */
export function PrintDialog({ project, draft, rows, sight, onClose, ...drawn }: Props) {
  const sources = useOwnSources(project.key);
  const folder = sources?.exportsFolder ?? null;
  const [wish, setWish] = useState(() => firstWish(draft, sight));
  const set = useCallback((more: Partial<Wish>): void => setWish((before) => ({ ...before, ...more })), []);
  // What servers draw carries whose it is, like data that has an origin.
  const ofServers = drawn.layers.flatMap((l) => (l.active && l.service?.attribution ? [l.service.attribution] : []));
  const told = [sources?.attribution ?? '', ...new Set(ofServers)].filter((a) => a !== '').join('; ');
  const attribution = wish.attribution ?? told;
  const { plane, layers } = drawn;
  const land = useQuery({ queryKey: ['land'], queryFn: loadLand, enabled: wish.has.locator, staleTime: Infinity }).data;
  const [spec, fitting] = useMemo(() => {
    const page = pageSpec(wish, attribution, draft, plane, rows, sight, land);
    return [page, page && sight && fittingScale(layers, page, plane, sight)] as const;
  }, [wish, attribution, draft, plane, rows, sight, land, layers]);
  const fit = useMemo(() => (fitting === null ? null : () => set({ typedScale: fitting })), [fitting, set]);
  const scaleOf = (dataset: string): string | null => sources?.sources.find((s) => s.id === dataset)?.origin?.statedScale ?? null;
  const missing = missingOf(spec, draft, rows, scaleOf);
  const file = `${wish.name.trim()}.${wish.format}`;
  const isNamed = wish.name.trim() !== '' && !wish.name.includes('/');
  const ready = spec && sight && folder !== null && isNamed ? { spec, center: sight.center, path: `${folder}/${file}` } : null;
  const drawing = useRef<AbortController | null>(null);
  useEffect(() => () => drawing.current?.abort(), []); // whoever closes it before it is drawn wants no file
  /** Per cent; null: not begun, or all. */
  const [drawnPart, setDrawn] = useState<number | null>(null);
  const write = useMutation({
    mutationFn: async ({ spec, center, path }: NonNullable<typeof ready>) => {
      const { signal } = (drawing.current = new AbortController());
      const onLayer = (_: HTMLCanvasElement, done: number, of: number): void => setDrawn((100 * done) / of);
      const { file, ...told } = await writePage(spec, drawn, center, wish, { signal, onLayer });
      setDrawn(null);
      return { applied: await api.writePrint(project.key, inRoot(project, path), `Print ${wish.title}`, file), told, path };
    },
    onSuccess: ({ applied, told, path }) => {
      tellDone(`${path} is written.${toldOf(told, draft)}`, applied.change);
      startTransition(onClose); // the editor below is drawn anew, bit by bit
    },
  });
  return (
    <FormDialog
      title="Print frame"
      confirm={`Write the ${wish.format.toUpperCase()}`}
      disabled={ready === null || write.isPending}
      isBusy={write.isPending}
      maxWidth="lg"
      onConfirm={() => ready && write.mutate(ready)}
      onClose={onClose}
    >
      <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '330px minmax(0, 1fr)' }, gap: 3, mt: 1 }}>
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
          <PageFields wish={wish} set={set} attribution={attribution} folder={folder} onFit={fit} />
          {write.isError && !isGivenUp(write.error) && <ErrorState error={write.error} />}
        </Box>
        <Box>
          {spec && sight ? <PagePreview spec={spec} center={sight.center} {...drawn} /> : <Typography>{whyNoPage(wish, draft)}</Typography>}
          {missing.length > 0 && (
            <Box role="note" aria-label="What is missing" sx={{ borderLeft: '3px solid var(--ochre)', pl: 1.25, mt: 1.5, fontSize: 13 }}>
              {missing.map((m) => (
                <div key={m}>{m}</div>
              ))}
            </Box>
          )}
        </Box>
      </Box>
      {write.isPending && (
        <LinearProgress
          aria-label="Writing the page"
          variant={drawnPart === null ? 'indeterminate' : 'determinate'}
          value={drawnPart ?? 0}
          sx={{ mt: 1 }}
        />
      )}
    </FormDialog>
  );
}
