import type { DatasetView, ProjectView } from '@rootmap/core/contract';

/** A sound dataset below the root `/r`, and what differs from that. */
export const datasetView = (path: string, over: Partial<DatasetView> = {}): DatasetView => ({
  id: `/r/${path}`,
  name: path.slice(path.lastIndexOf('/') + 1),
  folder: path.slice(0, Math.max(0, path.lastIndexOf('/'))),
  link: null,
  place: 'desk',
  format: 'shapefile',
  kind: 'vector',
  geometry: 'Polygon',
  count: 1,
  crs: 'EPSG:32624',
  bytes: 1,
  state: 'ok',
  findings: [],
  ...over,
});

/** A project at `/r` without maps, and what differs from that. */
export const projectView = (over: Partial<ProjectView> = {}): ProjectView => ({
  key: 'k',
  id: 'i',
  title: 'P',
  root: '/r',
  shownRoot: 'D:/r',
  place: 'desk',
  path: 'r',
  summary: '',
  crs: null,
  workingGeodatabase: null,
  storedForm: 'relative',
  maps: [],
  damaged: [],
  datasets: [],
  links: [],
  services: [],
  leftBehind: [],
  skipped: [],
  totals: { sound: 0, 'not-asked': 0, different: 0, incomplete: 0, adrift: 0, absent: 0, unreadable: 0 },
  bytes: 1,
  files: 1,
  lookedMs: 0,
  surveyMs: 1,
  ...over,
});
