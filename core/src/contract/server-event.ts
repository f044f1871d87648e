import type { JobView } from './jobs.js';

export type ServerEvent =
  | { readonly type: 'project'; readonly key: string }
  | { readonly type: 'projects' }
  | { readonly type: 'places' }
  | { readonly type: 'journal' }
  /** What a search for data is on; `key` of the project or lone map. */
  | { readonly type: 'search'; readonly key: string; readonly item: string }
  | { readonly type: 'job'; readonly job: JobView };
