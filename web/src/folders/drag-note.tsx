import { Box } from '@mui/material';
import type { EditPreview } from '@rootmap/core/contract';
import { useOpenProject } from '../frame/use-project.js';
import { bytes, many } from '../parts/format.js';
import { sentenceOf } from '../parts/states.js';
import { nameOf } from './folder-rows.js';
import type { DropTarget } from './drop-target.js';
import { inRoot, moveTo, type MoveEdit } from './moves.js';
import { useEditPlan, useSettled } from './use-edit.js';

/** What is being dragged, and what dropping it here would rewrite. */
export function DragNote({ projectKey, paths, target }: { projectKey: string; paths: readonly string[]; target: DropTarget | null }) {
  const project = useOpenProject();
  const settled = useSettled(target, 120);
  const at = settled?.kind === 'folder' ? inRoot(project, settled.folder) : settled?.kind === 'link' ? settled.at : null;
  const edit: MoveEdit | null = at && moveTo(project, paths, at);
  const plan = useEditPlan(projectKey, edit, true);
  const what = paths.length === 1 ? nameOf(paths[0]!) : many(paths.length, 'thing');
  const isCurrent = settled?.name === target?.name;
  const rootName = nameOf(project.path) || project.title;
  const where = target?.kind === 'folder' ? target.folder || rootName : target?.name;
  return (
    <Box
      role="status"
      sx={{
        width: 'max-content',
        maxWidth: 380,
        px: 1.5,
        py: 0.75,
        borderRadius: '6px',
        bgcolor: 'var(--top)',
        color: 'var(--top-text)',
        fontSize: 13,
        boxShadow: '0 4px 14px rgba(0,0,0,0.28)',
        transform: 'translate(10px, 34px)', // the name of the row below stays readable
      }}
    >
      <Box component="div" className="mono" sx={{ fontWeight: 650 }}>
        {what} {where !== undefined && `→ ${where}`}
      </Box>
      <div>
        {sentence(target, isCurrent && at !== null && edit === null, isCurrent ? plan.data : undefined, isCurrent ? plan.error : null)}
      </div>
    </Box>
  );
}

function sentence(target: DropTarget | null, isThere: boolean, preview: EditPreview | undefined, error: unknown): string {
  if (target === null) return 'Drop it on a folder.';
  if (target.kind === 'place') return 'Choose the folder there after dropping.';
  if (isThere) return 'It is there already.';
  if (error) return sentenceOf(error);
  if (!preview) return 'Working out what would change…';
  const copied = preview.copiedBytes > 0 ? `, ${bytes(preview.copiedBytes)} copied` : '';
  return preview.referenceCount === 0
    ? `${many(preview.files, 'file')}, no layer uses it${copied}.`
    : `${many(preview.files, 'file')}; ${many(preview.referenceCount, 'layer')} in ${many(preview.maps, 'map')} will follow${copied}.`;
}
