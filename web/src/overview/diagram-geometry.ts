/** Sizes of the root diagram, in pixels. */
export const ROW = 24;
export const HEAD = 34;
export const GAP = 14;
export const PAD = 8;
export const FOLDER = 24;
/** Where the columns of the root diagram stand, in pixels. */
export const LEFT = 264;
export const WIDTH = 916;
export const RIGHT_X = 592;
export const RIGHT = WIDTH - RIGHT_X;
export const GHOST_X = 304;
export const GHOST_WIDTH = 152;
/** Up to here tethers go straight on, past the ghosts; and here those of one folder come together. */
export const LANE_X = GHOST_X + GHOST_WIDTH + 8;
export const GATE_X = RIGHT_X - 10;
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
