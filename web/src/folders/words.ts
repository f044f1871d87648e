import type { Role } from '@rootmap/core';
import type { ThingView } from '@rootmap/core/contract';

export const KIND_WORDS: Readonly<Record<ThingView['kind'], string>> = {
  dataset: 'dataset',
  map: 'map',
  document: 'document',
  container: 'another program’s container',
  archive: 'archive',
  'left-behind': 'left-behind companion',
  other: 'file',
};

/** What people call a role. */
export const ROLE_WORDS: Readonly<Record<Role, string>> = {
  originals: 'originals',
  working: 'working',
  results: 'results',
  maps: 'maps',
  documents: 'documents',
  geodatabases: 'geodatabases',
  exports: 'exports',
  other: 'other',
};
