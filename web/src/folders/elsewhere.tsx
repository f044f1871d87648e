import { useDroppable, type Over } from '@dnd-kit/core';
import { Box } from '@mui/material';
import type { DropTarget } from './drop-target.js';

/** Where things can be dropped beyond the tree. */
export const Elsewhere = ({ targets, over }: { targets: readonly DropTarget[]; over: DropTarget | null }) =>
  targets.length === 0 ? null : (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1.5, py: 1, borderTop: '1px solid var(--rule)', fontSize: 13 }}>
      Elsewhere:
      {targets.map((target) => (
        <ElsewhereTarget key={target.name} target={target} isTarget={over?.name === target.name} />
      ))}
    </Box>
  );

/** What something is held over, where that is beyond the tree. */
export const targetOf = (over: Over | null): DropTarget | null => (over?.data.current?.['target'] as DropTarget | undefined) ?? null;

function ElsewhereTarget({ target, isTarget }: { target: DropTarget; isTarget: boolean }) {
  const { setNodeRef } = useDroppable({ id: `elsewhere ${target.name}`, data: { target } });
  return (
    <Box
      ref={setNodeRef}
      sx={{
        px: 1.25,
        py: 0.5,
        borderRadius: '6px',
        border: '1px dashed var(--stone)',
        bgcolor: isTarget ? 'var(--ochre-wash)' : undefined,
        boxShadow: isTarget ? 'inset 0 0 0 2px var(--ochre)' : undefined,
      }}
    >
      {target.name}
    </Box>
  );
}
