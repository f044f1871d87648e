import { Box } from '@mui/material';
import type { EditPreview, EditRequest } from '@rootmap/core/contract';
import { useOpenProject } from '../frame/use-project.js';
import { bytes, many } from '../parts/format.js';
import { sentenceOf } from '../parts/states.js';
import { nameOf } from './folder-rows.js';
import { moveInto } from './moves.js';
import { useEditPlan, useSettled } from './use-edit.js';

/** What is being dragged, and what dropping it here would rewrite. */
export function DragNote({ projectKey, paths, folder }: { projectKey: string; paths: readonly string[]; folder: string | null }) {
  const project = useOpenProject();
  const settled = useSettled(folder, 120);
  const edit: EditRequest | null = settled === null ? null : moveInto(project, paths, settled);
  const plan = useEditPlan(projectKey, edit, true);
  const what = paths.length === 1 ? nameOf(paths[0]!) : many(paths.length, 'thing');
  const isCurrent = settled === folder;
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
      }}
    >
      <Box component="div" className="mono" sx={{ fontWeight: 650 }}>
        {what} {folder !== null && `→ ${folder === '' ? nameOf(project.path) || project.title : folder}`}
      </Box>
      <div>{sentence(folder, isCurrent && edit === null, isCurrent ? plan.data : undefined, isCurrent ? plan.error : null)}</div>
    </Box>
  );
}

function sentence(folder: string | null, isThere: boolean, preview: EditPreview | undefined, error: unknown): string {
  if (folder === null) return 'Drop it on a folder.';
  if (isThere) return 'It is there already.';
  if (error) return sentenceOf(error);
  if (!preview) return 'Working out what would change…';
  const copied = preview.copiedBytes > 0 ? `, ${bytes(preview.copiedBytes)} copied` : '';
  return preview.referenceCount === 0
    ? `${many(preview.files, 'file')}, no layer uses it${copied}.`
    : `${many(preview.files, 'file')}; ${many(preview.referenceCount, 'layer')} in ${many(preview.maps, 'map')} will follow${copied}.`;
}
