import { useEffect, useRef, useState, type RefObject } from 'react';
import { useLatest } from '../../parts/use-latest.js';
import { useToken } from '../../theme/use-token.js';
import type { Point } from '../edit/map-plane.js';
import type { MapScene } from '../edit/map-scene.js';
import { MeasureBoard } from './measure-board.js';

export interface Sketch {
  readonly corners: readonly Point[];
  readonly isDone: boolean;
}
const NO_SKETCH: Sketch = { corners: [], isDone: false };

/** So many corners make a line, or an area. */
export const isEnough = (corners: readonly Point[], isArea: boolean): boolean => corners.length > (isArea ? 2 : 1);

/** What is drawn on the map to be measured. A line that becomes an area, or other colours, keep the corners, and that they are all. */
export function useMeasureBoard(
  scene: MapScene,
  isArea: boolean,
): { readonly sketch: Sketch; readonly board: RefObject<MeasureBoard | null> } {
  const [line, paper] = [useToken('--plum'), useToken('--sheet')];
  const [sketch, setSketch] = useState(NO_SKETCH);
  const board = useRef<MeasureBoard | null>(null);
  const before = useLatest(sketch);
  useEffect(() => {
    const made = new MeasureBoard(scene.map, isArea, { line, paper }, (corners, isDone) => setSketch({ corners, isDone }));
    board.current = made;
    const { corners, isDone } = before.current;
    made.add(corners);
    if (isDone && isEnough(corners, isArea)) made.finish();
    return () => {
      board.current = null;
      made.dispose();
    };
  }, [scene, isArea, line, paper, before]);
  return { sketch, board };
}
