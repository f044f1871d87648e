import { Box, Tooltip } from '@mui/material';
import { visuallyHidden } from '@mui/utils';
import { Link } from 'react-router';
import { shortPath } from '../parts/format.js';
import { clip, GHOST_WIDTH, GHOST_X } from './diagram-geometry.js';
import type { GhostNode } from './ghost-slots.js';

interface Props {
  readonly ghost: GhostNode;
  readonly projectKey: string;
  readonly onMark: (id: string | null) => void;
}

/** Where data was recorded and is no more. */
export function Ghost({ ghost: g, projectKey, onMark }: Props) {
  const absent = g.layers.every((l) => l.state === 'absent');
  const tone = absent ? 'stone' : 'plum';
  return (
    <Tooltip
      title={
        <>
          recorded at <span className="mono">{g.label}</span>
        </>
      }
    >
      <Box
        component={Link}
        to={absent ? '/places' : `/p/${projectKey}/mend?layer=${encodeURIComponent(g.layers[0]!.key)}`}
        onMouseEnter={() => onMark(g.id)}
        onFocus={() => onMark(g.id)}
        onBlur={() => onMark(null)}
        sx={{
          position: 'absolute',
          left: GHOST_X,
          top: g.y,
          width: GHOST_WIDTH,
          height: g.height,
          boxSizing: 'border-box',
          border: `1.5px dashed var(--${tone})`,
          borderRadius: '6px',
          bgcolor: absent ? 'var(--sunk)' : 'var(--plum-wash)',
          color: `var(--${tone})`,
          textDecoration: 'none',
          fontSize: 12,
          lineHeight: 1.3,
          pl: 1.5,
          pr: 0.5,
          display: 'flex',
          flexDirection: 'column',
          justifyContent: 'center',
        }}
      >
        <Box component="span" className="mono" sx={{ ...clip, fontSize: 12.5 }}>
          <span style={visuallyHidden}>was recorded at </span>
          {shortPath(g.label, 23)}
        </Box>
        <span>{absent ? 'its place is absent' : 'nothing there now'}</span>
      </Box>
    </Tooltip>
  );
}
