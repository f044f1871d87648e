import { ROW } from './layout-diagram.js';

/** Where the columns of the root diagram stand, in pixels. */
export const LEFT = 264;
export const WIDTH = 916;
export const RIGHT_X = 560;
export const RIGHT = WIDTH - RIGHT_X;
export const GHOST_X = 358;
export const GHOST_WIDTH = 158;
export const END_X = RIGHT_X + 24;

export const rowLook = {
  position: 'absolute',
  left: 0,
  right: 0,
  height: ROW,
  px: 1.5,
  display: 'flex',
  alignItems: 'center',
  justifyContent: 'space-between',
  gap: 1,
  color: 'var(--ink)',
  textDecoration: 'none',
  fontSize: 13,
  borderRadius: '4px',
  '&:hover, &:focus-visible': { bgcolor: 'var(--sunk)' },
} as const;
export const clip = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;
