import { useEffect, useRef } from 'react';
import type { DrawnGeometry, DrawnKind } from '@rootmap/core/contract';
import { useLatest } from '../../parts/use-latest.js';
import { useToken } from '../../theme/use-token.js';
import type { MapScene } from '../edit/map-scene.js';
import { DrawingBoard, type Tool } from './drawing-board.js';
import type { EditedRecord } from './edit-session.js';

interface Options {
  readonly scene: MapScene;
  readonly kind: DrawnKind;
  readonly tool: Tool;
  readonly records: readonly EditedRecord[];
  readonly chosen: number | null;
  readonly onDrawn: (geometry: DrawnGeometry) => void;
  readonly onReshaped: ConstructorParameters<typeof DrawingBoard>[2]['onReshaped'];
  readonly onChosen: (key: number | null) => void;
}

/** What is drawn with on the map: made anew where the map or the colours change, and given what there is to show. */
export function useDrawingBoard({ scene, kind, tool, records, chosen, ...told }: Options): void {
  const [plain, marked, paper] = [useToken('--plum'), useToken('--ochre'), useToken('--sheet')];
  const board = useRef<DrawingBoard | null>(null);
  const live = useLatest(told);
  useEffect(() => {
    const made = new DrawingBoard(
      scene.map,
      kind,
      {
        onDrawn: (geometry) => live.current.onDrawn(geometry),
        onReshaped: (shapes) => live.current.onReshaped(shapes),
        onChosen: (key) => live.current.onChosen(key),
      },
      { plain, chosen: marked, paper },
    );
    board.current = made;
    return () => {
      board.current = null;
      made.dispose();
    };
  }, [scene, kind, plain, marked, paper, live]);
  useEffect(() => board.current?.use(tool), [tool, scene, kind, plain, marked, paper]);
  useEffect(() => board.current?.show(records, chosen), [records, chosen, scene, kind, plain, marked, paper]);
}
