/**
 * Raised whenever readers say something else of the same bytes than before: what was kept of earlier readings (the index, pictures,
 * tables of rows) is not used any more then.
 */
export const READING_EDITION = '3';
