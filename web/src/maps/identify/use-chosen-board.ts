import { useEffect } from 'react';
import type { Point } from '../edit/map-plane.js';
import type { MapScene } from '../edit/map-scene.js';
import { useToken } from '../../theme/use-token.js';
import { ChosenBoard } from './chosen-board.js';
import type { Chosen } from './use-chosen.js';

/** Shows on the map what is chosen, and where it was asked. */
export function useChosenBoard(scene: MapScene | null, { shapes }: Chosen, at: Point | null): void {
  const [mark, paper] = [useToken('--ochre'), useToken('--sheet')];
  useEffect(() => {
    if (!scene || (shapes.length === 0 && at === null)) return;
    const board = new ChosenBoard(scene.map, { mark, paper });
    board.show(shapes, at);
    return () => board.dispose();
  }, [scene, shapes, at, mark, paper]);
}
