import { drawingOf, lookFor } from '@rootmap/core';
import { useQueries } from '@tanstack/react-query';
import { useMemo, useRef } from 'react';
import type { DraftLayer, LayerPictureView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { sentenceOf } from '../../parts/states.js';
import type { LayerFacts } from './layer-facts.js';
import type { MapPlane } from './map-plane.js';
import type { SceneLayer } from './map-scene.js';
import { keys } from '../../api/queries.js';
import { boxOfService, useServiceDrawings } from './use-service-drawings.js';

export interface PictureState {
  readonly picture: LayerPictureView | null;
  readonly isReading: boolean;
  readonly problem: string | null;
}

const NOWHERE = 'Nobody knows its CRS, so it is not drawn: state its CRS in Sources, or look for the .prj where it came from.';

/**
 * Tiles of each layer made ready in the map's CRS, and the layers as the map draws them.
 * @param isOpen the map's outlines are on the screen: only then its data are read, so that nobody waits for an empty page.
 */
export function useSceneLayers(
  projectKey: string,
  layers: readonly DraftLayer[],
  factsOf: (layer: DraftLayer) => LayerFacts,
  plane: MapPlane,
  isOpen: boolean,
) {
  const crs = plane.crs?.code ?? null;
  const asked = layers.map((layer) => {
    const { data, file } = factsOf(layer);
    const isThere =
      data !== null &&
      data.dataset !== null &&
      data.kind !== 'table' &&
      (file === null || ['sound', 'different', 'incomplete'].includes(file.state));
    // Numbers of a CRS that nobody knows would be taken for those of the map's.
    const isNowhere = isThere && !data.isPlaced && crs !== null;
    return {
      layer,
      data,
      isNowhere,
      body: isThere && !isNowhere ? { dataset: data.dataset, crs: data.isPlaced ? crs : null, drawing: drawingOf(layer, data.kind) } : null,
    };
  });
  const found = useQueries({
    queries: asked.map(({ body }) => ({
      queryKey: keys.of(projectKey, 'layer-picture', body),
      queryFn: ({ signal }: { signal: AbortSignal }) => api.layerPicture(projectKey, body!, signal),
      enabled: isOpen && body !== null,
      retry: false,
      staleTime: 60_000,
    })),
  });
  const services = useServiceDrawings(projectKey, layers, factsOf, plane, isOpen);
  // A layer keeps its last picture while another is made ready, so that nothing blinks. What is kept comes from the same answers as
  // what is drawn, and is never ahead of them.
  /* eslint-disable react-hooks/refs */
  const last = useRef(new Map<string, { readonly dataset: string; readonly crs: string | null; readonly picture: LayerPictureView }>());
  const states = new Map<string, PictureState>();
  asked.forEach(({ layer, body, isNowhere }, i) => {
    const { data, error } = found[i]!;
    if (data && body) last.current.set(layer.id, { dataset: body.dataset, crs, picture: data });
    const before = last.current.get(layer.id);
    const kept = before && body && before.dataset === body.dataset && before.crs === crs ? before.picture : null;
    states.set(layer.id, {
      picture: data ?? kept,
      isReading: body !== null && !data && !error,
      problem: error ? sentenceOf(error) : isNowhere ? NOWHERE : (services.get(layer.id)?.problem ?? null),
    });
  });
  /* eslint-enable react-hooks/refs */
  const key = JSON.stringify([
    layers,
    [...services].map(([id, s]) => [id, s.drawing?.crs, s.drawing?.version, s.degrees]),
    [...states].map(([id, s]) => [id, s.picture?.version, s.picture?.drawing, s.picture?.classes.length]),
    crs,
  ]);
  const scene = useMemo(
    (): SceneLayer[] =>
      asked.map(({ layer, data, isNowhere }) => ({
        id: layer.id,
        active: layer.active,
        opacity: layer.opacity,
        minScale: layer.minScale,
        maxScale: layer.maxScale,
        look: lookFor(layer, data?.kind ?? null),
        label: layer.label?.template.trim() ? layer.label : null,
        picture: states.get(layer.id)?.picture ?? null,
        service: services.get(layer.id)?.drawing ?? null,
        box:
          boxOfService(services.get(layer.id), plane) ??
          (data?.degrees && plane.crs ? plane.boxOf(data.degrees) : isNowhere ? null : (data?.bbox ?? null)),
      })),
    [key, plane], // eslint-disable-line react-hooks/exhaustive-deps -- the key says all that the layers are made of
  );
  return { scene, states };
}
