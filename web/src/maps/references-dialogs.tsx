import { Button, Typography } from '@mui/material';
import { Link } from 'react-router';
import type { LayerView, MapView, PathRequest, ProjectView } from '@rootmap/core/contract';
import { usePlaces } from '../api/queries.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { many } from '../parts/format.js';
import { LinkDialog } from '../sources/link-dialog.js';
import { ACTS, editOf, folderAt, isBroken, isToBringIn, isToLink, type Act } from './reference-acts.js';
import { StoredFormDialog } from './stored-form-dialog.js';

/** Which dialog of the references is open. */
export type ReferencesDialog =
  | { readonly kind: 'switch'; readonly form: 'relative' | 'absolute' }
  | { readonly kind: 'act'; readonly act: Act; readonly layers: readonly LayerView[] }
  | { readonly kind: 'link'; readonly at: PathRequest }
  | { readonly kind: 'new-maps' };

interface Props {
  readonly project: ProjectView;
  readonly map: MapView | null;
  readonly all: readonly LayerView[];
  readonly dialog: ReferencesDialog | null;
  readonly onDialog: (dialog: ReferencesDialog | null) => void;
  /** Something was done with the layers that were chosen. */
  readonly onDone: () => void;
}

export function ReferencesDialogs({ project, map, all, dialog, onDialog, onDone }: Props) {
  const close = (): void => onDialog(null);
  switch (dialog?.kind) {
    case 'switch':
      return (
        <StoredFormDialog
          projectKey={project.key}
          map={map}
          form={dialog.form}
          fixes={(kept) => {
            const layer = all.find((l) => l.map === kept.map && l.layer === kept.layer);
            return layer && <Fixes project={project} layer={layer} onDialog={onDialog} />;
          }}
          onClose={close}
        />
      );
    case 'act':
      return (
        <EditDialog
          projectKey={project.key}
          title={ACTS[dialog.act].title}
          edit={editOf(dialog.layers, dialog.act, project)}
          button={`${ACTS[dialog.act].button}: ${many(dialog.layers.length, 'layer')}`}
          onClose={close}
          onDone={onDone}
        >
          <Typography color="text.secondary" sx={{ mb: 1.5 }}>
            {ACTS[dialog.act].hint}
          </Typography>
        </EditDialog>
      );
    case 'link':
      return (
        <LinkDialog project={project} at={dialog.at} onAnother={(at) => onDialog({ kind: 'link', at })} onLinked={close} onClose={close} />
      );
    case 'new-maps':
      return <ForNewMaps project={project} onClose={close} />;
    case undefined:
      return null;
  }
}

/** What would let a layer be stored otherwise that cannot be as it is. */
function Fixes({ project, layer, onDialog }: { project: ProjectView; layer: LayerView; onDialog: Props['onDialog'] }) {
  const at = folderAt(layer, usePlaces().data ?? []);
  return (
    <>
      {isToBringIn(layer) && (
        <Button size="small" onClick={() => onDialog({ kind: 'act', act: 'bring-in', layers: [layer] })}>
          Bring it in
        </Button>
      )}
      {isToLink(layer) && at && (
        <Button size="small" onClick={() => onDialog({ kind: 'link', at })}>
          Link its folder
        </Button>
      )}
      {isBroken(layer) && (
        <Button size="small" component={Link} to={`/p/${project.key}/mend?layer=${encodeURIComponent(layer.key)}`}>
          Mend it
        </Button>
      )}
    </>
  );
}

const ADVERB = { relative: 'relatively', absolute: 'absolutely' } as const;

function ForNewMaps({ project, onClose }: { project: ProjectView; onClose: () => void }) {
  const other = project.storedForm === 'relative' ? 'absolute' : 'relative';
  return (
    <EditDialog
      projectKey={project.key}
      title="How new maps store references"
      edit={{ kind: 'stored-form', form: other }}
      button={`New maps store ${ADVERB[other]}`}
      onClose={onClose}
    >
      <Typography color="text.secondary" sx={{ mb: 1.5 }}>
        Maps of this project store {ADVERB[project.storedForm]} unless they say otherwise. {ACTS[other].hint} References that stand in maps
        already stay as they are.
      </Typography>
    </EditDialog>
  );
}
