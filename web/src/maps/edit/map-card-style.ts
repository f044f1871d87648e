/** A card that lies over the map at its upper left. */
export const MAP_CARD = {
  position: 'absolute',
  top: 12,
  left: 12,
  gap: 1,
  p: 1.25,
  bgcolor: 'var(--sheet)',
  border: '1px solid var(--rule)',
  borderRadius: '6px',
  zIndex: 1,
} as const;
