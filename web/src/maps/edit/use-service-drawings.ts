import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState } from 'react';
import type { DraftLayer, ServiceLayerView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { keys } from '../../api/queries.js';
import { sentenceOf } from '../../parts/states.js';
import type { LayerFacts } from './layer-facts.js';
import type { MapPlane } from './map-plane.js';
import { askedIn, type ServiceDrawing } from './service-layers.js';

export interface ServiceState {
  readonly drawing: ServiceDrawing | null;
  readonly problem: string | null;
  readonly degrees: readonly [number, number, number, number] | null;
}

export const boxOfService = (state: ServiceState | undefined, plane: MapPlane): [number, number, number, number] | null =>
  state?.degrees && plane.crs ? plane.boxOf(state.degrees) : null;

const MISSING = 'Its server did not send all of it. The rest of the map is drawn; it is asked again in a moment.';
const AGAIN_MS = 8000;
const ASKING_MS = 700;
const FAILED_MS = 12_000;
const PART = 'Only some of its records are drawn here: come closer to see all.';
const NO_CRS = 'The map’s CRS is not known, so what the server sends cannot be placed.';

/** Layers that draw on services: each is asked for by itself, and what fails keeps nothing else from being drawn. */
export function useServiceDrawings(
  projectKey: string,
  layers: readonly DraftLayer[],
  factsOf: (layer: DraftLayer) => LayerFacts,
  plane: MapPlane,
  isOpen: boolean,
): ReadonlyMap<string, ServiceState> {
  const drawn = layers.flatMap((layer) => {
    const { file } = factsOf(layer);
    return file?.reach === 'service' && file.href !== null ? [{ id: layer.id, href: file.href, file }] : [];
  });
  const hrefs = drawn.map((d) => d.href);
  const found = useQuery({
    queryKey: keys.of(projectKey, 'service-layers', hrefs),
    queryFn: () => api.serviceLayers(projectKey, hrefs),
    enabled: isOpen && hrefs.length > 0,
    retry: false,
    placeholderData: (before) => before,
    // What is asked now is looked for again; a server that failed, later.
    refetchInterval: ({ state }) =>
      state.data?.some((l) => l.state === 'asking') ? ASKING_MS : state.data?.some((l) => l.state === 'failed') ? FAILED_MS : false,
  });
  const layerOf = (href: string): ServiceLayerView | undefined => found.data?.find((l) => l.href === href);
  const { notes, note, tries, onTrouble } = useTries();
  const key = JSON.stringify([
    drawn.map((d) => [d.id, d.href, d.file.state, d.file.detail]),
    found.data,
    found.error && sentenceOf(found.error),
  ]);
  return useMemo(() => {
    const states = new Map<string, ServiceState>();
    drawn.forEach(({ id, href, file }) => {
      const data = layerOf(href);
      const isPlaced = plane.crs?.proj4 != null;
      const isAway = file.state === 'absent' || file.state === 'adrift';
      const said = isAway
        ? sentence(file.detail)
        : found.error
          ? sentenceOf(found.error)
          : data?.why
            ? data.why
            : !isPlaced
              ? NO_CRS
              : (notes.get(id) ?? null);
      const drawing: ServiceDrawing | null =
        data?.state === 'known' && data.kind !== null && isPlaced
          ? {
              projectKey,
              kind: data.kind,
              href,
              attribution: data.attribution,
              crs: askedIn(plane.crs?.code ?? null, data.crs),
              version: `${isAway ? 'away' : 'here'} ${tries.get(id) ?? 0}`,
              onTrouble: () => onTrouble(id),
              onPart: (isPart) => note(id, isPart ? PART : null),
            }
          : null;
      states.set(id, { drawing, problem: said, degrees: data?.degrees ?? null });
    });
    return states;
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key says all that the layers are made of
  }, [key, plane, notes, tries, projectKey]);
}

/** What is told of each layer by its drawing, and how often it was tried. */
function useTries() {
  const [notes, setNotes] = useState<ReadonlyMap<string, string | null>>(new Map());
  const note = useCallback(
    (id: string, text: string | null) => setNotes((before) => ((before.get(id) ?? null) === text ? before : new Map(before).set(id, text))),
    [],
  );
  // What did not come is asked for again by itself.
  const [tries, setTries] = useState<ReadonlyMap<string, number>>(new Map());
  const [timers] = useState(() => new Map<string, ReturnType<typeof setTimeout>>());
  useEffect(() => () => timers.forEach((timer) => clearTimeout(timer)), [timers]);
  const onTrouble = useCallback(
    (id: string) => {
      note(id, MISSING);
      if (timers.has(id)) return;
      const again = (): void => {
        timers.delete(id);
        note(id, null);
        setTries((before) => new Map(before).set(id, (before.get(id) ?? 0) + 1));
      };
      timers.set(id, setTimeout(again, AGAIN_MS));
    },
    [note, timers],
  );
  return { notes, note, tries, onTrouble };
}

const sentence = (clause: string | null): string => {
  const text = clause ?? 'its server does not answer';
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}. The rest of the map is drawn without it.`;
};
