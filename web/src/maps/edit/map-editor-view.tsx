import { Box, Tab, Tabs, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useBlocker, useSearchParams } from 'react-router';
import type { DraftLayer, MapDocView, MapDraft, NewLayerView, ProjectView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { tellDone } from '../../journal/tell-done.js';
import { many } from '../../parts/format.js';
import { useStartedJob } from '../../parts/job-actions.js';
import { sentenceOf, Sheet } from '../../parts/states.js';
import { ReferencesPanel } from '../references-panel.js';
import { RehearsalPanel } from '../rehearse/rehearsal-panel.js';
import { newDraftLayer, withNewLayers } from './add-layers.js';
import { BringInLayersDialog } from './bring-in-layers-dialog.js';
import { CopyInCrsDialog } from './copy-in-crs-dialog.js';
import { CrsCard } from './crs-card.js';
import { MapCrsDialog } from './crs-dialog.js';
import { EditorHeader } from './editor-header.js';
import { EditorNotices } from './editor-notices.js';
import { LayerDetails } from './layer-details.js';
import { factsOfLayer } from './layer-facts.js';
import { LayerStack } from './layer-stack.js';
import { LeaveDialog } from './leave-dialog.js';
import { MapCanvas, type Sight } from './map-canvas.js';
import { MapFoot } from './map-foot.js';
import { MapPlane, type Point } from './map-plane.js';
import type { MapScene } from './map-scene.js';
import { isInScale } from './ol-symbols.js';
import { OpeningStack } from './opening-stack.js';
import { OutsideDialog } from './outside-dialog.js';
import { useMapEditor } from './use-map-editor.js';
import { useSceneLayers } from './use-scene-layers.js';
import { useWorking } from './use-working.js';
import { DigitisePanel } from '../digitise/digitise-panel.js';
import { PrintDialog } from '../print/print-dialog.js';

const THUMBNAIL = { width: 320, height: 200 } as const;
type Panel = 'stack' | 'references' | 'rehearse';

interface Props {
  readonly project: ProjectView;
  readonly path: string;
  readonly doc: MapDocView;
}

/** The map, its layer stack, and everything that can be set. Ctrl+S saves, Ctrl+Z takes back. */
export function MapEditorView({ project, path, doc }: Props) {
  const { key } = project;
  const editor = useMapEditor(key, path, doc);
  const { draft, edit, changes } = editor;
  const [search, setSearch] = useSearchParams();
  const panel = (search.get('panel') as Panel | null) ?? 'stack';
  const selected = search.get('layer');
  const set = (name: string, value: string | null): void =>
    setSearch(
      (before) => {
        const now = new URLSearchParams(before);
        if (value === null) now.delete(name);
        else now.set(name, value);
        return now;
      },
      { replace: true },
    );

  // What is known of layers that are not in the file yet.
  const sources = useMemo(
    () => draft.layers.filter((l) => l.source !== null && !doc.layers.some((o) => o.id === l.id)).map((l) => l.source!),
    [draft.layers, doc.layers],
  );
  const added = useQuery({
    queryKey: ['project', key, 'new-layers', path, sources],
    queryFn: () => api.newLayers(key, path, sources),
    enabled: sources.length > 0,
    placeholderData: (before) => before,
  });
  const known = useRef(new Map<string, NewLayerView>());
  added.data?.forEach((view, i) => sources[i] !== undefined && known.current.set(view.dataset ?? sources[i], view));
  const factsOf = useCallback((l: DraftLayer) => factsOfLayer(l, doc, known.current), [doc]);

  /** What is on the screen; null until the map has been drawn once. */
  const [sight, setSight] = useState<Sight | null>(null);
  /** The outlines are drawn first, then all that can be done with the map: nobody waits for an empty page. */
  const isOpen = sight !== null;
  const [crsDialog, setCrsDialog] = useState(false);
  const datasets = draft.layers.flatMap((l) => factsOf(l).data?.dataset ?? []);
  const advice = useQuery({
    queryKey: ['project', key, 'crs-advice', datasets],
    queryFn: () => api.crsAdvice(key, datasets),
    enabled: isOpen && datasets.length > 0,
    staleTime: 60_000,
    placeholderData: (before) => before,
  });
  const crsOf = useQuery({
    queryKey: ['map-crs', draft.crs],
    queryFn: async () => (await api.mapCrs(draft.crs!)) ?? null,
    enabled: draft.crs !== null && draft.crs !== doc.draft.crs,
    staleTime: Infinity,
  });
  const crs = draft.crs === null ? null : draft.crs === doc.draft.crs ? doc.crs : (crsOf.data ?? null);
  const plane = useMemo(() => new MapPlane(crs), [crs?.code]); // eslint-disable-line react-hooks/exhaustive-deps -- a CRS is known by its code
  const scene = useRef<MapScene | null>(null);
  const { scene: layers, states } = useSceneLayers(key, draft.layers, factsOf, plane, isOpen);
  const [pointer, setPointer] = useState<Point | null>(null);
  const [hasLand, setHasLand] = useState(() => localStorage.getItem('rootmap.land') !== 'off');
  const [liveScene, setLiveScene] = useState<MapScene | null>(null);

  const pictureUrl = useCallback((id: string, href: string) => api.stylePictureUrl(key, path, id, href), [key, path]);
  const [isBringing, setBringing] = useState(false);
  const [outside, setOutside] = useState<{ place: string; path: string } | null>(null);
  const [copying, setCopying] = useState<DraftLayer | null>(null);
  const working = useWorking(project, path, copying !== null);
  const [isPrinting, setPrinting] = useState(false);
  const [digitising, setDigitising] = useState<{ layer: DraftLayer | null } | null>(null);

  const editLayer = (id: string, more: Partial<DraftLayer>, what: string | null): void =>
    edit({ ...draft, layers: draft.layers.map((l) => (l.id === id ? { ...l, ...more } : l)) }, what === null ? null : `${id} ${what}`);
  const addDatasets = useMutation({
    mutationFn: async (ids: readonly string[]) => ({ ids, found: await api.newLayers(key, path, ids) }),
    onSuccess: async ({ ids, found }) => {
      ids.forEach((id, i) => known.current.set(id, found[i]!));
      const next = withNewLayers(draft.layers, ids, found, (l) => factsOf(l).data?.kind);
      const isFirst = draft.crs === null || draft.layers.length === 0;
      const proposed = isFirst
        ? (
            await api.crsAdvice(
              key,
              next.flatMap((l) => l.source ?? factsOf(l).data?.dataset ?? []),
            )
          ).proposed
        : null;
      edit({ ...draft, layers: next, ...(isFirst && proposed ? { crs: proposed.crs.code } : {}) });
      set('layer', next.find((l) => ids.includes(l.source ?? ''))?.id ?? null);
    },
  });

  const save = useMutation({
    mutationFn: () => {
      const view = sight ? { center: [sight.center[0], sight.center[1]] as const, scale: Math.round(sight.scale) } : draft.view;
      const body: MapDraft = { ...draft, view };
      const canvas = scene.current?.snapshot(THUMBNAIL.width, THUMBNAIL.height, '#e6ecf4');
      const thumbnail = canvas ? canvas.toDataURL('image/png').slice('data:image/png;base64,'.length) : null;
      return api.saveMap(key, { path, editor: editor.editor, base: editor.base, draft: body, thumbnail });
    },
  });
  const saving = useStartedJob(save.data);
  const savedDraft = useRef(draft);
  const startSave = useCallback((): void => {
    if (changes === 0) return;
    savedDraft.current = draft;
    editor.setSaving(true);
    save.mutate();
  }, [changes, editor, draft, save]);
  const { job } = saving;
  useEffect(() => {
    if (!job || job.state === 'running') return;
    editor.setSaving(false);
    if (job.state !== 'done') return;
    const { base, changeId, remembered } = job.result;
    editor.saved(savedDraft.current, base);
    tellDone(
      `Saved. ${many(remembered, 'layer')} of it ${remembered === 1 ? 'is' : 'are'} known by ${remembered === 1 ? 'its' : 'their'} data.`,
      changeId === null ? null : { id: changeId, canUndo: true },
    );
  }, [job?.id, job?.state]); // eslint-disable-line react-hooks/exhaustive-deps -- once for each state of each job

  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (!(e.ctrlKey || e.metaKey)) return;
      const isTyping = e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement;
      if (e.key === 's') {
        e.preventDefault();
        startSave();
      } else if (!isTyping && !digitising && e.key === 'z') {
        e.preventDefault();
        if (e.shiftKey) editor.redo();
        else editor.undo();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [startSave, editor, digitising]);

  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) =>
      changes > 0 && (currentLocation.pathname !== nextLocation.pathname || new URLSearchParams(nextLocation.search).get('map') !== path),
  );

  const rows = draft.layers.map((layer) => {
    const state = states.get(layer.id);
    return {
      layer,
      facts: factsOf(layer),
      isInScale: !sight || isInScale(layer, sight.scale),
      isReading: state?.isReading ?? false,
      problem: state?.problem ?? null,
    };
  });
  const layer = draft.layers.find((l) => l.id === selected) ?? null;
  const zoomTo = (l: DraftLayer): void => {
    const box = layers.find((s) => s.id === l.id)?.box;
    if (box) scene.current?.fit(box);
  };
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr) 440px',
        gridTemplateRows: 'auto minmax(0, 1fr)',
        gap: 1.25,
        p: 1.5,
        height: '100%',
        boxSizing: 'border-box',
      }}
    >
      <Box sx={{ gridColumn: '1 / 2', minHeight: 36 }}>
        {isOpen ? (
          <EditorHeader
            draft={draft}
            editor={editor}
            isSaving={saving.isRunning || save.isPending}
            savingItem={saving.job?.item ?? ''}
            onTitle={(title) => edit({ ...draft, title }, 'title')}
            onSummary={(summary) => edit({ ...draft, summary }, 'summary')}
            onSave={startSave}
            onBringIn={() => setBringing(true)}
            onPrint={() => setPrinting(true)}
            onDigitise={() => setDigitising({ layer: null })}
            hasLand={hasLand}
            onLand={(on) => (setHasLand(on), localStorage.setItem('rootmap.land', on ? 'on' : 'off'))}
          />
        ) : (
          <Typography variant="h1">{draft.title}</Typography>
        )}
      </Box>
      <Box sx={{ gridColumn: 2, gridRow: '1 / 3', display: 'flex', flexDirection: 'column', gap: 1.25, minHeight: 0 }}>
        <CrsCard code={draft.crs} crs={crs} advice={advice.data ?? null} onChange={() => setCrsDialog(true)} />
        <Sheet sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
          <Box sx={{ display: 'flex', alignItems: 'center', borderBottom: '1px solid var(--rule)' }}>
            <Tabs
              value={panel}
              onChange={(_, v: Panel) => set('panel', v === 'stack' ? null : v)}
              aria-label="What is shown of the map"
              sx={{ minHeight: 40, flex: 1, '& .MuiTab-root': { minHeight: 40, minWidth: 0, px: 1.5 } }}
            >
              <Tab value="stack" label="Layer stack" />
              <Tab value="references" label="References" />
              <Tab value="rehearse" label="Rehearse" />
            </Tabs>
            <Typography variant="body2" color="text.secondary" sx={{ pr: 1.5 }}>
              {many(draft.layers.length, 'layer')}
            </Typography>
          </Box>
          {panel === 'references' ? (
            <ReferencesPanel project={project} map={project.maps.find((m) => m.relativePath === path) ?? null} layer={selected} isNarrow />
          ) : panel === 'rehearse' ? (
            <RehearsalPanel project={project} map={path} hasUnsaved={changes > 0} />
          ) : digitising ? (
            <DigitisePanel
              project={project}
              plane={plane}
              scene={liveScene}
              target={digitising.layer === null ? null : { dataset: factsOf(digitising.layer).data!, title: digitising.layer.title }}
              onMade={(dataset) => addDatasets.mutate([dataset])}
              onClose={() => setDigitising(null)}
            />
          ) : (
            <>
              <Box sx={{ overflow: 'auto', flex: layer ? '0 1 46%' : 1, minHeight: 120 }}>
                {draft.layers.length === 0 && (
                  <Typography color="text.secondary" sx={{ p: 2 }}>
                    This map has no layer yet. Bring data of the project into it: nothing is copied, the map only points at it.
                  </Typography>
                )}
                {!isOpen ? (
                  <OpeningStack layers={draft.layers} />
                ) : (
                  <LayerStack
                    rows={rows}
                    mapCrs={draft.crs}
                    selected={layer?.id ?? null}
                    mendAddress={`/p/${key}/mend`}
                    onSelect={(id) => set('layer', id === layer?.id ? null : id)}
                    onOrder={(ids) => edit({ ...draft, layers: ids.map((id) => draft.layers.find((l) => l.id === id)!) })}
                    onActive={(ids, active) =>
                      edit({ ...draft, layers: draft.layers.map((l) => (ids.includes(l.id) ? { ...l, active } : l)) })
                    }
                  />
                )}
              </Box>
              {isOpen && layer && (
                <Box sx={{ flex: '1 1 54%', overflow: 'auto', borderTop: '2px solid var(--rule)' }}>
                  <LayerDetails
                    key={layer.id}
                    projectKey={key}
                    layer={layer}
                    facts={factsOf(layer)}
                    picture={states.get(layer.id)?.picture ?? null}
                    others={draft.layers.filter((l) => l !== layer).map((l) => ({ layer: l, facts: factsOf(l) }))}
                    groups={[...new Set(draft.layers.flatMap((l) => l.folder ?? []))]}
                    mapCrs={draft.crs}
                    onEdit={(more, what) => editLayer(layer.id, more, what)}
                    onRemove={() => (edit({ ...draft, layers: draft.layers.filter((l) => l !== layer) }), set('layer', null))}
                    onZoom={() => zoomTo(layer)}
                    onCopyInCrs={() => setCopying(layer)}
                    onDigitise={
                      factsOf(layer).data?.dataset && factsOf(layer).data?.kind !== 'raster' ? () => setDigitising({ layer }) : null
                    }
                  />
                </Box>
              )}
            </>
          )}
        </Sheet>
      </Box>
      <Box sx={{ gridColumn: 1, gridRow: 2, display: 'flex', flexDirection: 'column', gap: 1, minHeight: 0 }}>
        <EditorNotices
          editor={editor}
          onDone={(what) => (what === 'restore' ? editor.restore() : what === 'forget' ? editor.forget() : editor.drop())}
        />
        {(save.isError || saving.job?.state === 'failed' || addDatasets.isError) && (
          <Box role="alert" sx={{ p: 1, bgcolor: 'var(--plum-wash)', borderLeft: '4px solid var(--plum)', borderRadius: 1 }}>
            {saving.job?.state === 'failed' ? saving.job.message : sentenceOf(save.error ?? addDatasets.error)}
          </Box>
        )}
        <Box sx={{ position: 'relative', flex: 1, minHeight: 0, borderRadius: '6px', overflow: 'hidden', border: '1px solid var(--rule)' }}>
          <MapCanvas
            plane={plane}
            layers={layers}
            start={draft.crs === doc.draft.crs ? draft.view : null}
            name={draft.title}
            hasLand={isOpen && hasLand}
            pictureUrl={pictureUrl}
            scene={scene}
            onSight={setSight}
            onPointer={setPointer}
            onScene={setLiveScene}
          />
          {isOpen && (
            <MapFoot
              plane={plane}
              sight={sight}
              pointer={pointer}
              onScale={(scale) => scene.current?.goTo(scene.current.center, scale)}
              onGo={(to) => scene.current?.goTo(to)}
            />
          )}
        </Box>
      </Box>
      {isBringing && (
        <BringInLayersDialog
          project={project}
          present={new Set(datasets)}
          onAdd={(ids) => addDatasets.mutate(ids)}
          onOutside={(at) => (setBringing(false), setOutside(at))}
          onClose={() => setBringing(false)}
        />
      )}
      {outside && (
        <OutsideDialog project={project} at={outside} onAdd={(ids) => addDatasets.mutate(ids)} onClose={() => setOutside(null)} />
      )}
      {crsDialog && (
        <MapCrsDialog
          code={draft.crs}
          advice={advice.data ?? null}
          onChoose={(c) => edit({ ...draft, crs: c.code })}
          onClose={() => setCrsDialog(false)}
        />
      )}
      {copying && draft.crs && (
        <CopyInCrsDialog
          project={project}
          dataset={factsOf(copying).data!.dataset!}
          name={copying.title}
          from={factsOf(copying).data!.crs!}
          crs={draft.crs}
          working={working}
          onCopied={(id) => {
            void api.newLayers(key, path, [id]).then(([view]) => {
              known.current.set(id, view!);
              const copy: DraftLayer = { ...copying, id: newDraftLayer(id, view!, 0).id, source: id };
              edit({ ...draft, layers: draft.layers.map((l) => (l.id === copying.id ? copy : l)) });
            });
          }}
          onClose={() => setCopying(null)}
        />
      )}
      {isPrinting && (
        <PrintDialog
          project={project}
          draft={draft}
          plane={plane}
          layers={layers}
          rows={rows}
          sight={sight}
          hasLand={hasLand}
          pictureUrl={pictureUrl}
          onClose={() => setPrinting(false)}
        />
      )}
      {blocker.state === 'blocked' && (
        <LeaveDialog
          changes={changes}
          onStay={() => blocker.reset()}
          onLeave={() => blocker.proceed()}
          onDrop={() => (editor.drop(), blocker.proceed())}
        />
      )}
    </Box>
  );
}
