import { createHash } from 'node:crypto';

/** A short stable name of a project in addresses: its root decides. */
export const projectKey = (root: string): string => createHash('sha256').update(root).digest('hex').slice(0, 12);
