import { FormControlLabel, MenuItem, Radio, RadioGroup, Stack, TextField } from '@mui/material';
import type { ExportFormat } from '@rootmap/core/contract';
import { EXPORT_FORMATS_OF_RECORDS } from '../../exports/export-formats.js';
import type { Goal } from './use-part.js';

/** What a person chose of where a part goes. */
export interface GoalWish {
  readonly kind: Goal['kind'];
  readonly table: string;
  readonly format: ExportFormat;
  /** Path from the root without its ending. */
  readonly stem: string;
}

interface Props {
  readonly goal: Goal;
  readonly working: string | null;
  readonly onChange: (more: Partial<GoalWish>) => void;
}

/** A table of the working geodatabase, or a file. */
export function PartGoal({ goal, working, onChange }: Props) {
  return (
    <Stack sx={{ gap: 1.25 }}>
      <RadioGroup value={goal.kind} onChange={(_, v) => onChange({ kind: v as Goal['kind'] })} aria-label="What it becomes">
        <FormControlLabel
          value="table"
          disabled={working === null}
          control={<Radio size="small" />}
          label={working === null ? 'There is no working geodatabase' : `A table of ${working}`}
        />
        <FormControlLabel value="file" control={<Radio size="small" />} label="A file" />
      </RadioGroup>
      {goal.kind === 'table' ? (
        <TextField
          size="small"
          label="Table"
          value={goal.table}
          onChange={(e) => onChange({ table: e.target.value })}
          slotProps={{ htmlInput: { className: 'mono' } }}
        />
      ) : (
        <>
          <TextField
            select
            size="small"
            label="Format"
            value={goal.format}
            onChange={(e) => onChange({ format: e.target.value as ExportFormat })}
          >
            {EXPORT_FORMATS_OF_RECORDS.map(([format, { label }]) => (
              <MenuItem key={format} value={format}>
                {label}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            size="small"
            label="File"
            value={goal.path.replace(/\.[^./]+$/, '')}
            onChange={(e) => onChange({ stem: e.target.value })}
            slotProps={{
              htmlInput: { className: 'mono' },
              input: { endAdornment: <span className="mono">{/\.[^./]+$/.exec(goal.path)?.[0] ?? ''}</span> },
            }}
          />
        </>
      )}
    </Stack>
  );
}
