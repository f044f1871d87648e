import type { StepRecord, TreeStamps } from '../changes/change.js';
import type { StepRow } from './tables.js';

/** Columns of a step, whatever its kind; what a kind has no use for is null, and a staged path that it has not is empty. */
export type StepColumns = Omit<StepRow, 'changeId'>;

/**
 * The columns of `step`: what tells a file before and after stands in two, permission bits in octal, which file was written over
 * in `source`, what is in a folder that was installed, as JSON, in `before`, which lists of changes leave out.
 */
export function columnsOf(step: StepRecord): StepColumns {
  const { n, kind, path } = step;
  const bare = { n, kind, path, temp: '', source: null, beforeHash: null, afterHash: null, before: null };
  switch (step.kind) {
    case 'write':
      return {
        ...bare,
        temp: step.temp,
        source: step.beforeStamp,
        beforeHash: step.beforeHash,
        afterHash: step.afterHash,
        before: step.before && Buffer.from(step.before),
      };
    case 'install':
      return { ...bare, temp: step.temp, afterHash: step.stamp, before: treeBytes(step.tree) };
    case 'copy':
      return { ...bare, temp: step.temp, source: step.source, afterHash: step.treeHash };
    case 'trash':
      return { ...bare, temp: step.temp, beforeHash: step.hash };
    case 'folder':
    case 'drop-folder':
      return bare;
    case 'move':
      return { ...bare, source: step.source, beforeHash: step.identity, before: treeBytes(step.tree) };
    case 'mode':
      return { ...bare, beforeHash: step.before === null ? null : step.before.toString(8), afterHash: step.after.toString(8) };
  }
}

const treeBytes = (tree: TreeStamps | null): Buffer | null => tree && Buffer.from(JSON.stringify(tree));
const treeOf = ({ before }: StepRow): TreeStamps | null => (before ? (JSON.parse(before.toString('utf8')) as TreeStamps) : null);

/** The step of a row; `before` is null where it was not asked for. */
export function stepOf(row: StepRow): StepRecord {
  const { n, path, temp, beforeHash, afterHash } = row;
  const kind = row.kind as StepRecord['kind'];
  switch (kind) {
    case 'write':
      return { kind, n, path, temp, before: row.before ?? null, beforeHash, beforeStamp: row.source, afterHash: afterHash ?? '' };
    case 'install':
      return { kind, n, path, temp, stamp: afterHash, tree: treeOf(row) };
    case 'copy':
      return { kind, n, path, temp, source: row.source ?? '', treeHash: afterHash };
    case 'trash':
      return { kind, n, path, temp, hash: beforeHash };
    case 'folder':
    case 'drop-folder':
      return { kind, n, path };
    case 'move':
      return { kind, n, path, source: row.source ?? '', identity: beforeHash ?? '', tree: treeOf(row) };
    case 'mode':
      return { kind, n, path, before: beforeHash === null ? null : parseInt(beforeHash, 8), after: parseInt(afterHash ?? '', 8) };
  }
}
