import { useQuery } from '@tanstack/react-query';
import type { MendReach, NewProjectBody, PathRequest, SendRequest, SourcesView } from '@rootmap/core/contract';
import { api } from './client.js';

/** What can be asked of a project, beside what has a key of its own; an event about the project makes all of it stale. */
type OfProject =
  | 'adoption'
  | 'copies'
  | 'crs-advice'
  | 'crs-candidates'
  | 'edit'
  | 'editable'
  | 'export'
  | 'geodatabase-check'
  | 'geodatabases'
  | 'import'
  | 'layer-picture'
  | 'link-advice'
  | 'linked-folder'
  | 'map-doc'
  | 'map-from-table'
  | 'map-picture'
  | 'mend'
  | 'new-layers'
  | 'newer'
  | 'codes'
  | 'note'
  | 'notes'
  | 'outside'
  | 'paths'
  | 'preview'
  | 'rehearsal'
  | 'project-notes'
  | 'quality'
  | 'quality-sheet'
  | 'service-search'
  | 'records'
  | 'rows'
  | 'service-features'
  | 'service-layers'
  | 'service-tree'
  | 'services'
  | 'statistics'
  | 'stayed-out'
  | 'trash';

export const keys = {
  status: ['status'] as const,
  places: ['places'] as const,
  drives: ['places', 'drives'] as const,
  folder: (at: PathRequest) => ['folder', at.place, at.path] as const,
  projects: ['projects'] as const,
  project: (key: string) => ['project', key] as const,
  mends: (key: string) => ['project', key, 'mend'] as const,
  mend: (key: string, search: readonly PathRequest[], reach: MendReach) => ['project', key, 'mend', search, reach] as const,
  searching: (key: string) => ['searching', key] as const,
  bundle: (key: string, send: SendRequest) => ['project', key, 'bundle', send] as const,
  sendMemory: (key: string) => ['project', key, 'send-memory'] as const,
  folders: (key: string) => ['project', key, 'folders'] as const,
  housekeeping: (key: string) => ['project', key, 'housekeeping'] as const,
  sources: (key: string) => ['project', key, 'sources'] as const,
  arrival: (key: string, id: string) => ['arrival', key, id] as const,
  plans: ['plans'] as const,
  reviewTemplates: ['review-templates'] as const,
  shelves: ['shelves'] as const,
  journal: ['journal'] as const,
  journalOf: (only: object) => ['journal', only] as const,
  changedFiles: (id: string) => ['journal', id, 'files'] as const,
  jobs: ['jobs'] as const,
  of: (project: string, what: OfProject, ...which: readonly unknown[]) => ['project', project, what, ...which] as const,
  loneMap: (at: PathRequest) => ['lone-map', at.place, at.path] as const,
  starterLinks: ['starter-links'] as const,
  newProject: (body: NewProjectBody | null) => ['new-project', body] as const,
  crs: (words: unknown) => ['crs', words] as const,
  mapCrs: (code: string | null) => ['map-crs', code] as const,
  identify: (request: unknown) => ['identify', request] as const,
  shapes: (request: unknown) => ['shapes', request] as const,
  /** By the state of the data: it is another picture when that changes. */
  thumbnail: (project: string, dataset: string, modifiedMs: number | undefined, bytes: number) =>
    ['thumbnail', project, dataset, modifiedMs, bytes] as const,
};

export const useStatus = () => useQuery({ queryKey: keys.status, queryFn: api.status, staleTime: Infinity });
export const usePlaces = () => useQuery({ queryKey: keys.places, queryFn: api.places });
export const useFolder = (at: PathRequest | null) =>
  useQuery({ queryKey: keys.folder(at ?? { place: '', path: '' }), queryFn: () => api.folder(at!), enabled: at !== null });
export const useProjects = () => useQuery({ queryKey: keys.projects, queryFn: api.projects });
export const useProject = (key: string) => useQuery({ queryKey: keys.project(key), queryFn: () => api.project(key) });
export const useBundle = (key: string, send: SendRequest) =>
  useQuery({
    queryKey: keys.bundle(key, send),
    queryFn: ({ signal }) => api.bundle(key, send, signal),
    placeholderData: (before) => before,
  });
export const useSendMemory = (key: string) => useQuery({ queryKey: keys.sendMemory(key), queryFn: () => api.sendMemory(key) });
export const useFolders = (key: string) => useQuery({ queryKey: keys.folders(key), queryFn: () => api.folders(key) });
export const useHousekeeping = (key: string) => useQuery({ queryKey: keys.housekeeping(key), queryFn: () => api.housekeeping(key) });
export const useSources = (key: string) =>
  useQuery({ queryKey: keys.sources(key), queryFn: () => api.sources(key), placeholderData: (before) => before });
/** The sources of this very project; null: not known yet, so that nothing is to be written to a folder that they name. */
export function useOwnSources(key: string): SourcesView | null {
  const { data, isPlaceholderData } = useSources(key);
  return isPlaceholderData ? null : (data ?? null);
}
/** Where what people make goes, from the root; null: not known yet. */
export const useWorkFolder = (key: string): string | null => useOwnSources(key)?.workFolder ?? null;
export const useArrival = (key: string, id: string) =>
  useQuery({ queryKey: keys.arrival(key, id), queryFn: () => api.arrival(key, id), retry: false });
export const usePlans = () => useQuery({ queryKey: keys.plans, queryFn: api.plans });
export const useJournal = (only: Parameters<typeof api.journal>[0]) =>
  useQuery({ queryKey: keys.journalOf(only), queryFn: () => api.journal(only), placeholderData: (before) => before });
export const useServices = (key: string) =>
  useQuery({ queryKey: keys.of(key, 'services'), queryFn: () => api.services(key), placeholderData: (before) => before });
/** What is known of the quality of data. */
export const useQuality = (key: string, enabled = true) =>
  useQuery({ queryKey: keys.of(key, 'quality'), queryFn: () => api.quality(key), enabled });
export const useJobs = () => useQuery({ queryKey: keys.jobs, queryFn: api.jobs });

export const useGeodatabases = (key: string, enabled = true) =>
  useQuery({
    queryKey: keys.of(key, 'geodatabases'),
    queryFn: () => api.geodatabases(key),
    placeholderData: (before) => before,
    enabled,
  });
