import { useImperativeHandle, useState, type Ref } from 'react';
import { useBlocker } from 'react-router';
import type { DraftLayer, PathRequest } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { PartDialog } from '../part/part-dialog.js';
import { PrintDialog } from '../print/print-dialog.js';
import { BringInLayersDialog } from './bring-in-layers-dialog.js';
import { CopyInCrsDialog } from './copy-in-crs-dialog.js';
import { MapCrsDialog } from './crs-dialog.js';
import { LeaveDialog } from './leave-dialog.js';
import { SaveAsDialog } from './save-as-dialog.js';
import { OutsideDialog } from './outside-dialog.js';
import { withCopy } from './use-add-datasets.js';
import type { Point } from './map-plane.js';
import type { MapWork } from './use-map-work.js';
import { useWorking } from './use-working.js';

/** Which dialog of the editor is open. */
export type MapDialog =
  | { readonly kind: 'bring-in' | 'crs' | 'print' | 'save-as' }
  | { readonly kind: 'outside'; readonly at: PathRequest }
  | { readonly kind: 'copy' | 'part'; readonly layer: DraftLayer };
export type OpenDialog = (dialog: MapDialog) => void;

interface Props {
  readonly work: MapWork;
  /** Opens a dialog. Which one is open is known here alone: the whole editor would be drawn anew with each that opens or closes. */
  readonly ref: Ref<OpenDialog>;
  /** The area that was measured last. */
  readonly measured: readonly Point[] | null;
}

export function MapDialogs({ work, ref, measured }: Props) {
  const [dialog, onDialog] = useState<MapDialog | null>(null);
  useImperativeHandle(ref, () => onDialog, []);
  const { project, editor, plane, layers, rows, sight, hasLand, pictureUrl } = work;
  const { draft, edit } = editor;
  const close = (): void => onDialog(null);
  const add = (ids: readonly string[]): void => work.add.mutate(ids);
  switch (dialog?.kind) {
    case 'bring-in':
      return (
        <BringInLayersDialog
          project={project}
          map={work.path}
          present={new Set(work.datasets)}
          onAdd={add}
          onOutside={(at) => onDialog({ kind: 'outside', at })}
          onClose={close}
        />
      );
    case 'outside':
      return <OutsideDialog project={project} at={dialog.at} onAdd={add} onClose={close} />;
    case 'crs':
      return <MapCrsDialog code={draft.crs} advice={work.advice} onChoose={(c) => edit({ ...draft, crs: c.code })} onClose={close} />;
    case 'copy':
      return <Copy work={work} layer={dialog.layer} onClose={close} />;
    case 'part':
      return <PartDialog work={work} layer={dialog.layer} measured={measured} onClose={close} />;
    case 'print':
      return <PrintDialog {...{ project, draft, plane, layers, rows, sight, hasLand, pictureUrl }} onClose={close} />;
    case 'save-as':
      return <SaveAsDialog path={work.path} onSave={work.save.startAs} onClose={close} />;
    case undefined:
      return null;
  }
}

/** The layer's data in the CRS of the map; the layer then shows the copy. */
function Copy({ work, layer, onClose }: { work: MapWork; layer: DraftLayer; onClose: () => void }) {
  const { project, path, editor, known } = work;
  const working = useWorking(project, path, true);
  const { data } = known.factsOf(layer);
  const { crs } = editor.draft;
  if (crs === null || data?.dataset == null || !data.isPlaced) return null; // only what has both is offered
  const onCopied = async (id: string): Promise<void> => {
    const [view] = await api.newLayers(project.key, path, [id]);
    if (!view) return;
    known.learn(id, view);
    editor.edit(withCopy(editor.draft, layer, id, view));
  };
  return (
    <CopyInCrsDialog
      project={project}
      dataset={data.dataset}
      name={layer.title}
      from={data.crs ?? data.crsName ?? 'a CRS of its own'}
      crs={crs}
      isRaster={data.kind === 'raster'}
      working={working}
      onCopied={(id) => void onCopied(id)}
      onClose={onClose}
    />
  );
}

/** Asks before a page with unsaved work is left. */
export function LeaveGuard({ work }: { work: MapWork }) {
  const { editor, path } = work;
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) =>
      editor.changes > 0 &&
      (currentLocation.pathname !== nextLocation.pathname || new URLSearchParams(nextLocation.search).get('map') !== path),
  );
  if (blocker.state !== 'blocked') return null;
  return (
    <LeaveDialog
      changes={editor.changes}
      onStay={() => blocker.reset()}
      onLeave={() => blocker.proceed()}
      onDrop={() => (editor.drop(), blocker.proceed())}
    />
  );
}
