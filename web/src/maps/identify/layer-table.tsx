import { mdiClose } from '@mdi/js';
import { Box, Button, IconButton, Typography } from '@mui/material';
import type { DraftLayer } from '@rootmap/core/contract';
import { many, number } from '../../parts/format.js';
import { Icon } from '../../parts/icon.js';
import { AskedRecords, RowsSearch } from '../../rows/asked-records.js';
import { useAskedRows } from '../../rows/use-asked-rows.js';
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
  const ours = chosen.of(layer.id);
  const seek = ours.size === 1 ? [...ours][0]! : null;
  const rows = useAskedRows(project.key, { dataset, filter: layer.filter }, seek);
  const page = rows.head.data;
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
      <RowsSearch rows={rows} />
      <AskedRecords rows={rows} choosing={{ chosen: ours, onChoose: (record, isMore) => chosen.choose(layer.id, record, isMore) }} />
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
