import { existsSync } from 'node:fs';
import type { PlannedStep } from '../changes/change.js';
import { BESIDE } from './holders.js';

/**
 * A geodatabase is replaced by what is staged beside it: the old file goes to the trash, so that undo puts the very file back, and
 * with it what stands beside it, which belongs to the old content only.
 */
export const replaceContainer = (path: string): PlannedStep[] => [
  ...['', ...BESIDE].flatMap((b): PlannedStep[] => (existsSync(path + b) ? [{ kind: 'trash', path: path + b, hash: null }] : [])),
  { kind: 'install', path },
];
