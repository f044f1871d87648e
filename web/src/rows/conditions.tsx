import { Box, Chip } from '@mui/material';
import type { RowCondition } from '@rootmap/core/contract';

interface Props {
  readonly where: readonly RowCondition[];
  readonly onChange: (where: readonly RowCondition[]) => void;
}

/** Conditions that rows must meet, each to be taken away. */
export const Conditions = ({ where, onChange }: Props) =>
  where.length === 0 ? null : (
    <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }} role="group" aria-label="Conditions">
      {where.map((c, i) => (
        <Chip
          key={`${c.field} ${c.test} ${c.value}`}
          size="small"
          label={`${c.field} ${c.test === 'empty' || c.test === 'filled' ? `is ${c.test}` : `${c.test} ${c.value}`}`}
          onDelete={() => onChange(where.filter((_, k) => k !== i))}
        />
      ))}
    </Box>
  );
