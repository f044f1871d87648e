import { Box, Typography } from '@mui/material';
import { useRef, useState } from 'react';
import type { DraftLayer, MapDocView, ProjectView } from '@rootmap/core/contract';
import { IdentifyCard } from '../identify/identify-card.js';
import { useChosenBoard } from '../identify/use-chosen-board.js';
import { useIdentify } from '../identify/use-identify.js';
import { layersWithRecords } from '../part/part-dialog.js';
import { MeasureCard } from '../measure/measure-card.js';
import { CrsCard } from './crs-card.js';
import { EditorHeader } from './editor-header.js';
import { LeaveGuard, MapDialogs, type OpenDialog } from './map-dialogs.js';
import type { Point } from './map-plane.js';
import type { MapScene } from './map-scene.js';
import { MapSide } from './map-side.js';
import { MapWindow } from './map-window.js';
import { useEditorKeys } from './use-editor-keys.js';
import { useMapWork, type MapWork } from './use-map-work.js';

interface Props {
  readonly project: ProjectView;
  readonly path: string;
  readonly doc: MapDocView;
}

/** On a narrow screen the map comes first, and its layers below it. */
const COLUMNS = {
  display: 'grid',
  gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 440px' },
  gridTemplateRows: { xs: 'auto 70vh 75vh', md: 'auto minmax(0, 1fr)' },
  gap: 1.25,
  p: 1.5,
  height: { xs: 'auto', md: '100%' },
  boxSizing: 'border-box',
} as const;

/** The layer of which records can be taken out: the chosen one, or the first. */
function firstWithRecords(work: MapWork): DraftLayer | undefined {
  const all = layersWithRecords(work);
  return all.find((l) => l === work.selected) ?? all[0];
}

/** The map, its layer stack, and everything that can be set. Ctrl+S saves, Ctrl+Z takes back. */
export function MapEditorView({ project, path, doc }: Props) {
  const work = useMapWork(project, path, doc);
  const { editor, save } = work;
  const { draft, edit } = editor;
  const dialogs = useRef<OpenDialog>(null);
  const open: OpenDialog = (dialog) => dialogs.current?.(dialog);
  const [drawing, setDrawing] = useState<DraftLayer | null | undefined>(undefined);
  const [scene, setScene] = useState<MapScene | null>(null);
  const [isMeasuring, setMeasuring] = useState(false);
  const [measured, setMeasured] = useState<readonly Point[] | null>(null);
  const identify = useIdentify(
    scene,
    work.layers,
    [...work.states.values()].some((s) => s.isReading),
    !isMeasuring && drawing === undefined,
  );
  useChosenBoard(scene, work.chosen, identify.asked?.at ?? null);
  useEditorKeys({ save: save.start, undo: drawing === undefined ? editor.undo : null, redo: editor.redo });
  const draw = (what: DraftLayer | null | undefined): void => {
    setMeasuring(false);
    setDrawing(what);
  };
  const takePart = (layer: DraftLayer): void => open({ kind: 'part', layer });
  const first = firstWithRecords(work);
  return (
    <Box sx={COLUMNS}>
      <Box sx={{ gridColumn: '1 / 2', minHeight: 36 }}>
        {work.isOpen ? (
          <EditorHeader
            draft={draft}
            editor={editor}
            isSaving={save.isSaving}
            savingItem={save.item}
            onTitle={(title) => edit({ ...draft, title }, 'title')}
            onSummary={(summary) => edit({ ...draft, summary }, 'summary')}
            onSave={save.start}
            onSaveAs={() => open({ kind: 'save-as' })}
            onBringIn={() => open({ kind: 'bring-in' })}
            onPrint={() => open({ kind: 'print' })}
            onDigitise={() => draw(null)}
            onMeasure={drawing === undefined ? () => setMeasuring(true) : null}
            hasLand={work.hasLand}
            onLand={work.setLand}
          />
        ) : (
          <Typography variant="h1">{draft.title}</Typography>
        )}
      </Box>
      <Box
        sx={{
          gridColumn: { xs: 1, md: 2 },
          gridRow: { xs: 3, md: '1 / 3' },
          display: 'flex',
          flexDirection: 'column',
          gap: 1.25,
          minHeight: 0,
        }}
      >
        <CrsCard code={draft.crs} crs={work.crs} advice={work.advice} onChange={() => open({ kind: 'crs' })} />
        <MapSide
          work={work}
          scene={scene}
          drawing={drawing}
          onDraw={draw}
          onCopyInCrs={(layer) => open({ kind: 'copy', layer })}
          onPart={takePart}
        />
      </Box>
      <MapWindow work={work} onScene={setScene} onPart={takePart}>
        {identify.asked && <IdentifyCard key={identify.asked.at.join()} work={work} identify={identify} onTable={work.showTable} />}
        {isMeasuring && scene && (
          <MeasureCard
            key={work.plane.crs?.code}
            plane={work.plane}
            scene={scene}
            onArea={setMeasured}
            onTakeOut={first ? () => takePart(first) : null}
            onClose={() => setMeasuring(false)}
          />
        )}
      </MapWindow>
      <MapDialogs ref={dialogs} work={work} measured={measured} />
      <LeaveGuard work={work} />
    </Box>
  );
}
