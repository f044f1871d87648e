import { mdiClose } from '@mdi/js';
import { Box, Button, IconButton, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import type { DraftLayer, RowCondition, RowsRequest } from '@rootmap/core/contract';
import { many, number } from '../../parts/format.js';
import { Icon } from '../../parts/icon.js';
import { ErrorState, Waiting } from '../../parts/states.js';
import { useSettled } from '../../folders/use-edit.js';
import { ConditionForm } from '../../rows/condition-form.js';
import { Conditions } from '../../rows/conditions.js';
import { FIRST_SIGHT, Records, type InSight } from '../../rows/records-table.js';
import { useRows } from '../../rows/use-rows.js';
import type { MapWork } from '../edit/use-map-work.js';

interface Props {
  readonly work: MapWork;
  readonly layer: DraftLayer;
  readonly dataset: string;
  /** Takes what is chosen out, as new data. */
  readonly onPart: () => void;
  readonly onClose: () => void;
}

/** The records that a layer draws, below the map: what is chosen here is shown there, and the other way round. */
export function LayerTable({ work, layer, dataset, onPart, onClose }: Props) {
  const { project, chosen, scene } = work;
  const [words, setWords] = useState('');
  const [where, setWhere] = useState<readonly RowCondition[]>([]);
  const [sort, setSort] = useState<RowsRequest['sort']>(null);
  const [sight, setSight] = useState<InSight>(FIRST_SIGHT);
  const find = useSettled(words);
  const ours = chosen.of(layer.id);
  const seek = ours.size === 1 ? [...ours][0]! : null;
  const { head, rowAt } = useRows(project.key, { dataset, sort, find, where, filter: layer.filter, seek }, sight.first, sight.last);
  const page = head.data;
  const { box } = chosen;
  return (
    <Box component="section" aria-label={`Table of ${layer.title}`} sx={PANEL}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap' }}>
        <Typography component="h2" sx={{ fontSize: 14, fontWeight: 700 }}>
          {layer.title}
        </Typography>
        <Typography variant="body2" color="text.secondary" role="status">
          {page ? counts(page.found, page.all, ours.size) : ''}
        </Typography>
        <Box sx={{ flex: 1 }} />
        <Button size="small" disabled={ours.size === 0 || !box} onClick={() => box && scene.current?.fit(box)}>
          Zoom to chosen
        </Button>
        <Button size="small" onClick={onPart}>
          {ours.size === 0 ? 'Take a part out' : 'Take chosen out'}
        </Button>
        <IconButton size="small" aria-label="Close the table" onClick={onClose}>
          <Icon path={mdiClose} />
        </IconButton>
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap' }}>
        <TextField
          placeholder="Find in any field…"
          value={words}
          onChange={(e) => setWords(e.target.value)}
          slotProps={{ htmlInput: { 'aria-label': 'Find in any field' } }}
          sx={{ width: 170 }}
        />
        {page && <ConditionForm fields={page.fields} onAdd={(c) => setWhere((before) => [...before, c])} />}
      </Box>
      <Conditions where={where} onChange={setWhere} />
      {head.isError ? (
        <ErrorState error={head.error} />
      ) : !page ? (
        <Waiting what="Reading the records…" />
      ) : (
        <Records
          page={page}
          rowAt={rowAt}
          sort={sort}
          onSort={setSort}
          onSight={setSight}
          choosing={{ chosen: ours, onChoose: (record, isMore) => chosen.choose(layer.id, record, isMore) }}
        />
      )}
    </Box>
  );
}

const counts = (found: number, all: number, chosen: number): string =>
  `${found === all ? many(all, 'record') : `${number(found)} of ${many(all, 'record')}`}${chosen > 0 ? `, ${number(chosen)} chosen` : ''}`;

const PANEL = {
  flex: '0 0 38%',
  minHeight: 0,
  display: 'flex',
  flexDirection: 'column',
  gap: 0.75,
  p: 1,
  bgcolor: 'var(--sheet)',
  border: '1px solid var(--rule)',
  borderRadius: '6px',
} as const;
