import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { isInScale, lookFor, mapFrame, PIXEL_METRES, rangeOf, scaleText } from '@rootmap/core';
import type { MapDocView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useOwnSources } from '../api/queries.js';
import type { Sight } from '../maps/edit/map-canvas.js';
import { mapDocQuery } from '../maps/edit/map-doc-query.js';
import type { MapPlane } from '../maps/edit/map-plane.js';
import { isReady as isDrawable, type SceneLayer } from '../maps/edit/map-scene.js';
import { useKnownLayers } from '../maps/edit/use-known-layers.js';
import { useMapCrs } from '../maps/edit/use-map-crs.js';
import { useSceneLayers } from '../maps/edit/use-scene-layers.js';
import { firstWish, pageSpec } from '../maps/print/page-wish.js';
import { writePage } from '../maps/print/write-page.js';
import { useLatest } from '../parts/use-latest.js';
import { sentenceOf } from '../parts/states.js';

interface Props {
  readonly project: ProjectView;
  /** Of the map, from the root. */
  readonly path: string;
  /** Once it was drawn and kept; with the reason where it could not be. */
  readonly onDone: (problem: string | null) => void;
}

/** Draws a page of a map as it stands on the disk, which nobody sees, and keeps it for bundles. */
export function DrawMapPage({ project, path, onDone }: Props) {
  const doc = useQuery({ ...mapDocQuery(project.key, path), staleTime: 0 });
  const failure = doc.error ? sentenceOf(doc.error) : null;
  useEffect(() => {
    if (failure !== null) onDone(failure);
  }, [failure, onDone]);
  return doc.data ? <Drawing project={project} path={path} doc={doc.data} onDone={onDone} /> : null;
}

/** A server that has not told by then what it offers is drawn without. */
const MOST_WAIT_MS = 20_000;

function Drawing({ project, path, doc, onDone }: Props & { readonly doc: MapDocView }) {
  const { key } = project;
  const { draft } = doc;
  const { factsOf } = useKnownLayers(key, path, doc, draft.layers);
  const { plane } = useMapCrs(key, doc, draft, [], false);
  const { scene, states } = useSceneLayers(key, draft.layers, factsOf, plane, true);
  const sources = useOwnSources(key);
  const pictureUrl = useCallback((id: string, href: string) => api.stylePictureUrl(key, path, id, href), [key, path]);
  /** What servers did not send while it was drawn is known after it. */
  const latest = useLatest(states);
  const [isLate, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLate(true), MOST_WAIT_MS);
    return () => clearTimeout(timer);
  }, []);
  const isAsking = draft.layers.some((layer) => {
    const { file } = factsOf(layer);
    const isService = file?.reach === 'service';
    const drawn = scene.find((s) => s.id === layer.id);
    return (states.get(layer.id)?.isReading ?? false) || (isService && !drawn?.service && states.get(layer.id)?.problem == null);
  });
  const isReady = sources !== undefined && (!isAsking || isLate);
  const isBegun = useRef(false);
  const abort = useRef(new AbortController());
  useEffect(() => {
    if (!isReady || isBegun.current) return;
    isBegun.current = true;
    const draw = async (): Promise<void> => {
      const sight = sightOf(draft.view, scene, plane);
      const first = { ...firstWish(draft, sight), format: 'png', dpi: 150 } as const;
      const wish = sight ? { ...first, typedScale: scaleText(sight.scale) } : first;
      const rows = draft.layers.map((layer) => ({
        layer,
        facts: factsOf(layer),
        isInScale: !sight || isInScale(layer, sight.scale),
        range: rangeOf(lookFor(layer, factsOf(layer).data?.kind ?? null), states.get(layer.id)?.picture ?? null),
        isReading: false,
        problem: states.get(layer.id)?.problem ?? null,
      }));
      const servers = scene.flatMap((l) => (l.active && l.service?.attribution ? [l.service.attribution] : []));
      const attribution = [sources?.attribution ?? '', ...new Set(servers)].filter((a) => a !== '').join('; ');
      const spec = pageSpec(wish, attribution, draft, plane, rows, sight);
      if (!spec || !sight) return onDone('It has no place yet: look at it first, and save it.');
      const content = { plane, layers: scene, hasLand: true, pictureUrl };
      const { file, isWhole } = await writePage(spec, content, sight.center, wish, { signal: abort.current.signal });
      const isDrawn = (id: string): boolean => scene.some((s) => s.id === id && isDrawable(s)) && !latest.current.get(id)?.problem;
      const without = rows.filter((r) => r.layer.active && r.isInScale && !isDrawn(r.layer.id)).map((r) => r.layer.title);
      await api.keepMapPage(
        key,
        { path, base: doc.base, without: isWhole ? without : [...without, 'tiles that did not come in time'] },
        file,
      );
      onDone(null);
    };
    draw().catch((error: unknown) => abort.current.signal.aborted || onDone(sentenceOf(error)));
  });
  useEffect(() => {
    const { current } = abort;
    return () => current.abort();
  }, []);
  return null;
}

/** What the map opens at, else all of its data; null: it has no place. */
function sightOf(view: MapDocView['draft']['view'], layers: readonly SceneLayer[], plane: MapPlane): Sight | null {
  if (view) return { center: view.center, scale: view.scale, resolution: plane.resolution(view.scale, view.center) };
  const boxes = layers.flatMap((l) => (l.box ? [l.box] : []));
  if (boxes.length === 0) return null;
  const [west, south] = [Math.min(...boxes.map((b) => b[0])), Math.min(...boxes.map((b) => b[1]))];
  const [east, north] = [Math.max(...boxes.map((b) => b[2])), Math.max(...boxes.map((b) => b[3]))];
  const frame = mapFrame({ width: 297, height: 210 });
  const pixels = (mm: number): number => mm / 1000 / PIXEL_METRES;
  const resolution = 1.05 * Math.max((east - west) / pixels(frame.w), (north - south) / pixels(frame.h)) || 1 / plane.unit;
  const center = [(west + east) / 2, (south + north) / 2] as const;
  return { center, scale: plane.scale(resolution, center), resolution };
}
