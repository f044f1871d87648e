import { mdiClose, mdiPlus } from '@mdi/js';
import { Box, Button, Checkbox, IconButton, MenuItem, TextField, Typography } from '@mui/material';
import { planPathFault, ROLES, type PlanFolder, type Role } from '@rootmap/core';
import { Icon } from '../parts/icon.js';
import { ROLE_WORDS } from '../folders/words.js';

/** A folder of a plan as it is being edited: trimmed ones stay in sight, so that they can come back. */
export interface DraftFolder extends PlanFolder {
  readonly isIn: boolean;
}
export const draftOf = (folders: readonly PlanFolder[]): DraftFolder[] => folders.map((f) => ({ ...f, isIn: true }));
export const foldersOf = (draft: readonly DraftFolder[]): PlanFolder[] =>
  draft.filter((f) => f.isIn && f.path.trim() !== '').map(({ path, role, note }) => ({ path: path.trim(), role, note }));

/** Why a draft cannot be used; null: it can. */
export function draftFault(draft: readonly DraftFolder[]): string | null {
  const seen = new Set<string>();
  for (const f of foldersOf(draft)) {
    const why = planPathFault(f.path);
    if (why) return `"${f.path}": ${why}`;
    if (seen.has(f.path.toLowerCase())) return `"${f.path}" is there twice`;
    seen.add(f.path.toLowerCase());
  }
  return null;
}

/** The folders of a plan: trimmed by a tick, renamed in place, with their roles. */
export function PlanEditor({ draft, onChange }: { draft: readonly DraftFolder[]; onChange: (draft: DraftFolder[]) => void }) {
  const set = (at: number, change: Partial<DraftFolder>): void => onChange(draft.map((f, i) => (i === at ? { ...f, ...change } : f)));
  const fault = draftFault(draft);
  return (
    <Box>
      <Box component="ul" aria-label="Folders of the plan" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {draft.map((f, i) => (
          <Box
            component="li"
            key={i}
            sx={{
              display: 'grid',
              gridTemplateColumns: '34px 1fr 132px 34px',
              gap: 0.5,
              alignItems: 'center',
              height: 36,
              opacity: f.isIn ? 1 : 0.65,
            }}
          >
            <Checkbox
              size="small"
              checked={f.isIn}
              onChange={(e) => set(i, { isIn: e.target.checked })}
              slotProps={{ input: { 'aria-label': `Make ${f.path || 'this folder'}` } }}
            />
            <TextField
              variant="standard"
              value={f.path}
              onChange={(e) => set(i, { path: e.target.value })}
              title={f.note}
              placeholder="folder/below"
              slotProps={{ htmlInput: { className: 'mono', 'aria-label': `Folder ${i + 1}` } }}
            />
            <TextField
              select
              variant="standard"
              value={f.role}
              onChange={(e) => set(i, { role: e.target.value as Role })}
              slotProps={{ htmlInput: { 'aria-label': `Role of ${f.path || 'this folder'}` } }}
            >
              {ROLES.map((r) => (
                <MenuItem key={r} value={r}>
                  {ROLE_WORDS[r]}
                </MenuItem>
              ))}
            </TextField>
            <IconButton
              size="small"
              aria-label={`Take ${f.path || 'this folder'} out of the plan`}
              onClick={() => onChange(draft.filter((_, n) => n !== i))}
            >
              <Icon path={mdiClose} sx={{ fontSize: 16 }} />
            </IconButton>
          </Box>
        ))}
      </Box>
      <Button startIcon={<Icon path={mdiPlus} />} onClick={() => onChange([...draft, { path: '', role: 'other', note: '', isIn: true }])}>
        Another folder
      </Button>
      {fault && (
        <Typography role="alert" variant="body2" sx={{ color: 'var(--plum)' }}>
          {fault}.
        </Typography>
      )}
    </Box>
  );
}
