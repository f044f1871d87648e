import { Box } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { DraftLayer } from '@rootmap/core/contract';
import { sentenceOf } from '../../parts/states.js';
import { EditorNotices } from './editor-notices.js';
import { MapCanvas } from './map-canvas.js';
import { LayerTable } from '../identify/layer-table.js';
import { MapFoot } from './map-foot.js';
import { MapTools } from './map-tools.js';
import type { Point } from './map-plane.js';
import type { MapScene } from './map-scene.js';
import type { MapWork } from './use-map-work.js';

interface Props {
  readonly work: MapWork;
  readonly onScene: (scene: MapScene | null) => void;
  readonly onPart: (layer: DraftLayer) => void;
  /** What lies over the map. */
  readonly children: ReactNode;
}

/** The map itself, with what has to be said of it above and scale and position below. */
export function MapWindow({ work, onScene, onPart, children }: Props) {
  const { editor, doc, plane, layers, scene, sight, isOpen, save, add } = work;
  const { draft } = editor;
  const [pointer, setPointer] = useState<Point | null>(null);
  const error = save.error ?? add.error;
  return (
    <Box sx={{ gridColumn: 1, gridRow: 2, display: 'flex', flexDirection: 'column', gap: 1, minHeight: 0 }}>
      <EditorNotices
        editor={editor}
        onDone={(what) => (what === 'restore' ? editor.restore() : what === 'forget' ? editor.forget() : editor.drop())}
      />
      {(save.failure !== null || error) && (
        <Box role="alert" sx={{ p: 1, bgcolor: 'var(--plum-wash)', borderLeft: '4px solid var(--plum)', borderRadius: 1 }}>
          {save.failure ?? sentenceOf(error)}
        </Box>
      )}
      <Box sx={{ position: 'relative', flex: 1, minHeight: 0, borderRadius: '6px', overflow: 'hidden', border: '1px solid var(--rule)' }}>
        <MapCanvas
          plane={plane}
          layers={layers}
          start={draft.crs === doc.draft.crs ? draft.view : null}
          name={draft.title}
          hasLand={isOpen && work.hasLand}
          pictureUrl={work.pictureUrl}
          sceneRef={scene}
          onSight={work.setSight}
          onPointer={setPointer}
          onScene={onScene}
        />
        {children}
        {isOpen && <MapTools work={work} />}
        {sight !== null && (
          <MapFoot
            plane={plane}
            sight={sight}
            pointer={pointer}
            onScale={(scale) => scene.current?.goTo(scene.current.center, scale)}
            onGo={(to) => scene.current?.goTo(to)}
          />
        )}
      </Box>
      {isOpen && <Table work={work} onPart={onPart} />}
    </Box>
  );
}

/** The table of a layer below the map, where its data is there. */
function Table({ work, onPart }: Pick<Props, 'work' | 'onPart'>) {
  const { tableOf, known, showTable } = work;
  const dataset = tableOf ? (known.factsOf(tableOf).data?.dataset ?? null) : null;
  if (!tableOf || dataset === null || known.factsOf(tableOf).data?.kind === 'raster') return null;
  const acts = { onPart: () => onPart(tableOf), onClose: () => showTable(null) };
  return <LayerTable key={tableOf.id} work={work} layer={tableOf} dataset={dataset} {...acts} />;
}
