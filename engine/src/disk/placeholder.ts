import type { Stats } from 'node:fs';

/** Smaller files may stand in the directory itself, and then have no blocks either. */
const LEAST_BYTES = 4096;

/**
 * A file of a synchronised folder that stands in the cloud only: it has a size and no block on this disk. Reading it would
 * fetch it. (Common practice of synchronising programs; a file of nothing but zeros, never written, looks the same.)
 */
export const isPlaceholder = (stat: Pick<Stats, 'size' | 'blocks'>): boolean => stat.size >= LEAST_BYTES && stat.blocks === 0;
