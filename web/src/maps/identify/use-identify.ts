import { isInScale } from '@rootmap/core';
import { useQuery } from '@tanstack/react-query';
import { unByKey } from 'ol/Observable.js';
import { useEffect, useState } from 'react';
import type { IdentifyRequest } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { keys } from '../../api/queries.js';
import type { Point } from '../edit/map-plane.js';
import type { MapScene, SceneLayer } from '../edit/map-scene.js';

/** A click counts for what is so near, in pixels. */
const REACH = 6;

interface Asked {
  readonly at: Point;
  readonly scale: number;
  readonly reach: number;
  /** Records that a server drew here, with their values. */
  readonly ofServices: readonly { readonly layer: string; readonly values: Readonly<Record<string, unknown>> }[];
}

/** Layers that are drawn at that scale; those that are still made ready are asked when they are. */
const requestOf = ({ at, reach, scale }: Asked, layers: readonly SceneLayer[]): IdentifyRequest => ({
  at,
  reach,
  layers: layers.flatMap(({ picture, ...l }) =>
    l.active && picture && isInScale(l, scale) ? [{ id: l.id, version: picture.version, drawing: picture.drawing }] : [],
  ),
});

/** What stands where the map is clicked, or in its middle when Enter is pressed on it. @param isReading layers are still made ready  @param isFree nothing else takes the clicks */
export function useIdentify(scene: MapScene | null, layers: readonly SceneLayer[], isReading: boolean, isFree: boolean) {
  const [asked, setAsked] = useState<Asked | null>(null);
  useEffect(() => {
    if (!scene || !isFree) return;
    const { map } = scene;
    const ask = (at: Point): void =>
      setAsked({
        at,
        scale: scene.scale,
        reach: REACH * scene.resolution,
        ofServices: scene.recordsOfServices(map.getPixelFromCoordinate([...at]), REACH),
      });
    const click = map.on('singleclick', (e) => ask([e.coordinate[0]!, e.coordinate[1]!]));
    const target = map.getTargetElement();
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === 'Enter' && e.target === target) ask(scene.center);
    };
    target?.addEventListener('keydown', onKey);
    return () => {
      unByKey(click);
      target?.removeEventListener('keydown', onKey);
    };
  }, [scene, isFree]);
  const request = asked && requestOf(asked, layers);
  const { data, error, isFetching } = useQuery({
    queryKey: keys.identify(request),
    queryFn: ({ signal }) => api.identify(request!, signal),
    enabled: request !== null,
    // Another layer is ready: what is known of this point stays until the answer with that one comes.
    placeholderData: (before, query) => ((query?.queryKey[1] as IdentifyRequest | null)?.at === request?.at ? before : undefined),
    staleTime: Infinity, // versions never change
    retry: false,
  });
  return {
    asked: isFree ? asked : null,
    found: asked ? (data ?? null) : null,
    error,
    isWaiting: isFetching || isReading,
    close: () => setAsked(null),
  };
}
