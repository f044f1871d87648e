import { isInScale, lookFor, rangeOf } from '@rootmap/core';
import { useCallback, useRef, useState } from 'react';
import type { DraftLayer, MapDocView, ProjectView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { boxAround } from './box-around.js';
import { useChosen } from '../identify/use-chosen.js';
import { useUrlState } from '../../parts/use-url-state.js';
import type { Sight } from './map-canvas.js';
import type { MapScene } from './map-scene.js';
import { useAddDatasets } from './use-add-datasets.js';
import { useKnownLayers } from './use-known-layers.js';
import { useMapCrs } from './use-map-crs.js';
import { useMapEditor } from './use-map-editor.js';
import { useSaveMap } from './use-save-map.js';
import { useSceneLayers } from './use-scene-layers.js';

const LAND_KEY = 'rootmap.land';

/** Whether the outline of land is drawn below, as this person last had it. */
function useLand(): readonly [boolean, (on: boolean) => void] {
  const [hasLand, setLand] = useState(() => localStorage.getItem(LAND_KEY) !== 'off');
  const set = useCallback((on: boolean) => {
    setLand(on);
    localStorage.setItem(LAND_KEY, on ? 'on' : 'off');
  }, []);
  return [hasLand, set];
}

/** A map that is being edited: its draft, what is known of its data, how it is drawn, and what can be done with it. */
export function useMapWork(project: ProjectView, path: string, doc: MapDocView) {
  const { key } = project;
  const editor = useMapEditor(key, path, doc);
  const { draft, edit } = editor;
  const known = useKnownLayers(key, path, doc, draft.layers);
  const { factsOf } = known;
  const [search, set] = useUrlState();
  /** What is on the screen; null until the map has been drawn once. */
  const [sight, setSight] = useState<Sight | null>(null);
  /** The outlines are drawn first, then all that can be done with the map: nobody waits for an empty page. */
  const isOpen = sight !== null;
  const datasets = draft.layers.flatMap((l) => factsOf(l).data?.dataset ?? []);
  const { crs, plane, advice } = useMapCrs(key, doc, draft, datasets, isOpen);
  const { scene: layers, states } = useSceneLayers(key, draft.layers, factsOf, plane, isOpen);
  const scene = useRef<MapScene | null>(null);
  const [hasLand, setLand] = useLand();
  const select = (layer: string | null): void => set({ layer });
  const add = useAddDatasets({ key, path, editor, known, onAdded: select });
  const save = useSaveMap(key, path, editor, sight, scene);
  const pictureUrl = useCallback((id: string, href: string) => api.stylePictureUrl(key, path, id, href), [key, path]);
  const rows = draft.layers.map((layer) => {
    const state = states.get(layer.id);
    return {
      layer,
      facts: factsOf(layer),
      isInScale: !sight || isInScale(layer, sight.scale),
      range: rangeOf(lookFor(layer, factsOf(layer).data?.kind ?? null), state?.picture ?? null),
      isReading: state?.isReading ?? false,
      problem: state?.problem ?? null,
    };
  });
  const editLayer = (id: string, more: Partial<DraftLayer>, what: string | null): void =>
    edit({ ...draft, layers: draft.layers.map((l) => (l.id === id ? { ...l, ...more } : l)) }, what === null ? null : `${id} ${what}`);
  const chosen = useChosen(layers);
  const zoomTo = (id: string): void => {
    const box = layers.find((s) => s.id === id)?.box;
    if (box) scene.current?.fit(box);
  };
  const zoomToAll = (): void => {
    const box = boxAround(layers.flatMap((l) => (l.active && l.box ? [l.box] : [])));
    if (box) scene.current?.fit(box);
  };
  const tableOf = draft.layers.find((l) => l.id === search.get('table')) ?? null;
  return {
    project,
    path,
    doc,
    editor,
    known,
    sight,
    setSight,
    isOpen,
    datasets,
    crs,
    plane,
    advice,
    layers,
    states,
    scene,
    hasLand,
    setLand,
    select,
    selected: draft.layers.find((l) => l.id === search.get('layer')) ?? null,
    add,
    save,
    pictureUrl,
    rows,
    editLayer,
    zoomTo,
    zoomToAll,
    chosen,
    /** The layer whose records are shown below the map. */
    tableOf,
    showTable: (layer: string | null): void => set({ table: layer }),
  };
}
export type MapWork = ReturnType<typeof useMapWork>;
