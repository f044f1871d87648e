import { Box, FormControlLabel, Radio, RadioGroup, Typography } from '@mui/material';
import { useState } from 'react';
import { sameJson, type DraftConflict } from '@rootmap/core';
import type { DraftLayer } from '@rootmap/core/contract';
import { FormDialog } from '../../parts/form-dialog.js';
import { many } from '../../parts/format.js';

interface Props {
  readonly conflicts: readonly DraftConflict[];
  readonly onClose: () => void;
  /** Ids of those in which the saved map holds. */
  readonly onChosen: (taken: ReadonlySet<string>) => void;
}

/** What was changed in two windows, each in another way: both are shown, and a person says which holds. */
export function ConflictsDialog({ conflicts, onClose, onChosen }: Props) {
  const [chosen, setChosen] = useState<ReadonlyMap<string, 'mine' | 'theirs'>>(new Map());
  const open = conflicts.filter((c) => !chosen.has(c.id)).length;
  return (
    <FormDialog
      title="Changed there and here"
      confirm={open > 0 ? `Choose: ${many(open, 'is', 'are')} left` : 'Keep what I chose'}
      disabled={open > 0}
      maxWidth="sm"
      onConfirm={() => onChosen(new Set([...chosen].flatMap(([id, whose]) => (whose === 'theirs' ? [id] : []))))}
      onClose={onClose}
    >
      <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
        What only one of you changed is kept as it was changed. Nothing is saved before you save the map.
      </Typography>
      {conflicts.map((c) => (
        <Box key={c.id} component="section" sx={{ py: 1, borderTop: '1px solid var(--rule)' }}>
          <Typography variant="h3" id={`conflict-${c.id}`} sx={{ fontSize: 14, fontWeight: 650 }}>
            {titleOf(c)}
          </Typography>
          <RadioGroup
            aria-labelledby={`conflict-${c.id}`}
            value={chosen.get(c.id) ?? null}
            onChange={(_, whose) => setChosen(new Map(chosen).set(c.id, whose as 'mine' | 'theirs'))}
          >
            <FormControlLabel value="mine" control={<Radio size="small" />} label={`Mine: ${told(c, 'mine')}`} />
            <FormControlLabel value="theirs" control={<Radio size="small" />} label={`Saved: ${told(c, 'theirs')}`} />
          </RadioGroup>
        </Box>
      ))}
    </FormDialog>
  );
}

const FACT = { title: 'Title of the map', summary: 'Summary', crs: 'CRS of the map', storedForm: 'How paths are stored' } as const;

function titleOf(c: DraftConflict): string {
  if (c.kind === 'order') return 'Order of the layers';
  return c.kind === 'fact' ? FACT[c.id] : `Layer ${c.title || 'without a title'}`;
}

const MEMBER: Readonly<Record<Exclude<keyof DraftLayer, 'id' | 'source'>, string>> = {
  title: 'title',
  folder: 'group',
  active: 'shown or hidden',
  opacity: 'opacity',
  minScale: 'smallest scale',
  maxScale: 'largest scale',
  filter: 'filter',
  label: 'label',
  look: 'look',
};

function told(c: DraftConflict, whose: 'mine' | 'theirs'): string {
  if (c.kind === 'order') return many(c[whose].length, 'layer') + ' in this order';
  if (c.kind === 'fact') return c[whose] === null || c[whose] === '' ? 'none' : c[whose];
  const [own, other] = whose === 'mine' ? [c.mine, c.theirs] : [c.theirs, c.mine];
  if (own === null) return 'taken away';
  if (other === null) return `kept, as “${own.title}”`;
  const differs = (Object.keys(MEMBER) as (keyof typeof MEMBER)[]).filter((k) => !sameJson(own[k], other[k]));
  return differs
    .map((k) => (k === 'title' ? `title “${own.title}”` : k === 'filter' ? `filter ${own.filter || 'none'}` : MEMBER[k]))
    .join(', ');
}
