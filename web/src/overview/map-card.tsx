import { isInOrder } from '@rootmap/core';
import { Box, Button, Typography } from '@mui/material';
import { Link } from 'react-router';
import type { LayerView } from '@rootmap/core/contract';
import { kindWord, many, shortPath } from '../parts/format.js';
import { bondWords } from '../parts/tether.js';
import { clip, LEFT, ROW, rowLook } from './diagram-geometry.js';
import type { MapNode, Thread } from './layout-diagram.js';

/** Where a click on a layer leads: to the mend where it is broken, else to its references. */
const linkOf = (key: string, map: string, l: LayerView): string =>
  isInOrder(l.state) || l.state === 'absent'
    ? `/p/${key}/maps?map=${encodeURIComponent(map)}&layer=${encodeURIComponent(l.layer)}`
    : `/p/${key}/mend?layer=${encodeURIComponent(l.key)}`;

interface Marking {
  readonly onMark: (id: string | null) => void;
  readonly onToggle: () => void;
}

interface CardProps extends Marking {
  readonly node: MapNode;
  readonly projectKey: string;
  readonly marked: string | null;
  readonly threads: ReadonlyMap<string, Thread>;
}

/** A map and its layers, open or folded. */
export function MapCard({ node, projectKey, marked, onMark, onToggle, threads }: CardProps) {
  const { map } = node;
  return (
    <Box
      component="section"
      aria-label={map.title}
      sx={{
        position: 'absolute',
        left: 0,
        top: node.y,
        width: LEFT,
        height: node.height,
        bgcolor: 'var(--sheet)',
        border: '1px solid var(--rule)',
        borderRadius: '6px',
        boxSizing: 'border-box',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', pl: 1.5, pr: 0.5, height: 32 }}>
        <Typography
          variant="h3"
          component={Link}
          to={`/p/${projectKey}/maps?map=${encodeURIComponent(map.relativePath)}`}
          sx={{ flex: 1, color: 'inherit', textDecoration: 'none', ...clip, '&:hover': { textDecoration: 'underline' } }}
        >
          {map.title}
        </Typography>
        <Button
          onClick={onToggle}
          aria-expanded={!node.folded}
          sx={{ minWidth: 0, fontSize: 12, fontWeight: 400, color: 'text.secondary', px: 0.75 }}
        >
          {many(map.layers.length, 'layer')}
          {node.folded ? ' ▸' : ' ▾'}
        </Button>
      </Box>
      {node.rows.length === 0 && <Typography sx={{ px: 1.5, color: 'text.secondary', fontSize: 13 }}>no layers</Typography>}
      {node.rows.map((row) => (
        <LayerEntry
          key={row.id}
          row={row}
          top={row.y - node.y - ROW / 2 - 1}
          map={map.relativePath}
          projectKey={projectKey}
          thread={threads.get(row.id)}
          isMarked={marked === row.id}
          onMark={onMark}
          onToggle={onToggle}
        />
      ))}
    </Box>
  );
}

interface EntryProps extends Marking {
  readonly row: MapNode['rows'][number];
  /** Pixels below the head of the card. */
  readonly top: number;
  readonly map: string;
  readonly projectKey: string;
  readonly thread: Thread | undefined;
  readonly isMarked: boolean;
}

/** A layer, or layers of one folder that are folded together. */
function LayerEntry({ row, top, map, projectKey, thread, isMarked, onMark, onToggle }: EntryProps) {
  const [l] = row.layers;
  if (!l) return null;
  const common = {
    'data-side': 'left',
    'data-id': row.id,
    'data-target': thread?.target,
    onMouseEnter: () => onMark(row.id),
    onFocus: () => onMark(row.id),
    onBlur: () => onMark(null),
  };
  const style = { ...rowLook, top, bgcolor: isMarked ? 'var(--sunk)' : undefined };
  const words = row.layers.length > 1 ? `${row.label}, ${bondWords(l)}` : `${l.title}, ${bondWords(l)}`;
  if (row.layers.length > 1)
    return (
      <Box
        component="button"
        {...common}
        onClick={onToggle}
        aria-label={words}
        sx={{ ...style, border: 0, bgcolor: 'transparent', font: 'inherit', width: '100%', cursor: 'pointer' }}
      >
        <span>{row.label}</span>
        <Box component="span" className="mono" sx={{ color: 'text.secondary', fontSize: 12, ...clip }}>
          {shortPath(thread?.target.replace(/^[^/]*\//, '') ?? '', 24)}
        </Box>
      </Box>
    );
  return (
    <Box component={Link} {...common} to={linkOf(projectKey, map, l)} aria-label={words} sx={style}>
      <Box component="span" sx={{ ...clip, color: l.state === 'adrift' ? 'var(--plum)' : undefined }}>
        {row.label}
      </Box>
      <Box component="span" sx={{ color: 'text.secondary', fontSize: 12 }}>
        {kindWord(l.geometry)}
      </Box>
    </Box>
  );
}
