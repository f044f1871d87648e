import { Box } from '@mui/material';
import { useEffect, useRef, useState, type RefObject } from 'react';
import { useLatest } from '../../parts/use-latest.js';
import { useToken } from '../../theme/use-token.js';
import { boxAround } from './box-around.js';
import type { MapPlane, Point } from './map-plane.js';
import { isReady, MapScene, type SceneLayer } from './map-scene.js';

export interface Sight {
  readonly center: Point;
  readonly scale: number;
  readonly resolution: number;
}
interface Props {
  readonly plane: MapPlane;
  readonly layers: readonly SceneLayer[];
  /** Where it opens. */
  readonly start: { readonly center: Point; readonly scale: number } | null;
  readonly name: string;
  readonly hasLand: boolean;
  readonly pictureUrl: (layer: string, href: string) => string | null;
  readonly sceneRef: RefObject<MapScene | null>;
  readonly onSight: (sight: Sight) => void;
  readonly onPointer: (at: Point | null) => void;
  readonly onScene?: (scene: MapScene | null) => void;
}

/** The map itself. Arrow keys move it, plus and minus change its scale. */
export function MapCanvas({ plane, layers, start, name, hasLand, pictureUrl, sceneRef, onSight, onPointer, onScene }: Props) {
  const target = useRef<HTMLDivElement>(null);
  const [isDrawn, setDrawn] = useState(false);
  const calls = useLatest({ onSight, onPointer, pictureUrl, onScene, start });
  const [land, shore, outline] = [useToken('--sunk'), useToken('--rule'), useToken('--stone')];
  const isPlaced = useRef(false);

  useEffect(() => {
    const made = new MapScene(target.current!, plane, (layer, href) => calls.current.pictureUrl(layer, href));
    sceneRef.current = made;
    isPlaced.current = false;
    const { map } = made;
    const tell = (): void => calls.current.onSight({ center: made.center, scale: made.scale, resolution: made.resolution });
    // The outlines are painted before the rest of the page begins its work.
    map.once('postrender', () => requestAnimationFrame(() => setTimeout(() => sceneRef.current === made && tell())));
    map.on('moveend', tell);
    map.on('loadstart', () => setDrawn(false));
    map.on('rendercomplete', () => setDrawn(true));
    map.on('pointermove', (e) => calls.current.onPointer([e.coordinate[0]!, e.coordinate[1]!]));
    const leave = (): void => calls.current.onPointer(null);
    const element = target.current!;
    element.addEventListener('pointerleave', leave);
    const tellScene = (now: MapScene | null): void => calls.current.onScene?.(now);
    tellScene(made);
    return () => {
      element.removeEventListener('pointerleave', leave);
      tellScene(null);
      sceneRef.current = null;
      made.dispose();
    };
  }, [plane, sceneRef, calls]);

  useEffect(() => {
    const made = sceneRef.current;
    if (!made) return;
    made.show(layers, { land, shore, outline });
    if (isPlaced.current) return;
    const whole = boxAround(layers.flatMap((l) => (l.box ? [l.box] : [])));
    const { start } = calls.current;
    if (start) made.goTo(start.center, start.scale);
    else if (whole) made.fit(whole);
    else return;
    isPlaced.current = true;
  }, [layers, land, shore, outline, sceneRef, plane, calls]);

  useEffect(() => void sceneRef.current?.showLand(hasLand), [hasLand, sceneRef, plane]);

  return (
    <Box
      ref={target}
      role="application"
      aria-label={`Map ${name}. Arrow keys move it, plus and minus change its scale, Enter tells what is in its middle`}
      tabIndex={0}
      data-drawn={isDrawn}
      data-pictures={layers.filter(isReady).length}
      sx={{
        position: 'absolute',
        inset: 0,
        bgcolor: 'var(--slate-wash)',
        '& .ol-zoom': { left: 'auto', right: 12, top: 12, p: 0, bgcolor: 'transparent' },
        '& .ol-zoom button': {
          bgcolor: 'var(--sheet)',
          color: 'var(--ink)',
          width: 26,
          height: 26,
          border: '1px solid var(--rule)',
          cursor: 'pointer',
        },
      }}
    />
  );
}
