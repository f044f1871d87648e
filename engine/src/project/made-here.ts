import { roleOf, type Role } from '@rootmap/core';
import type { FoundDataset } from './find-dataset.js';
import type { RootedScope } from './scope.js';

const MADE: ReadonlySet<Role | null> = new Set<Role>(['working', 'results', 'geodatabases', 'exports']);

/** Whether a dataset stands where a project keeps what is made in it: it has no publisher, and nobody fetched it. */
export const isMadeHere = (scope: RootedScope, { folder, dataset }: FoundDataset): boolean =>
  folder === scope.root && MADE.has(roleOf(dataset.group.path, scope.project?.folders ?? {}));
