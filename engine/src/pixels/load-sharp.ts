import type { default as Sharp } from 'sharp';

/** Loaded where a picture is decoded or made: that takes some 40 ms, and most commands do neither. */
export const loadSharp = async (): Promise<typeof Sharp> => (await import('sharp')).default;
