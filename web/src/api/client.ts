import type { MatchedPoints, RecordComparison, ProjectNote } from '@rootmap/core';
import type {
  AdoptRequest,
  AdoptView,
  AppliedView,
  BundleView,
  ChangeView,
  ChangedFilesView,
  ClassesRequest,
  ClassesView,
  CompareEditionsRequest,
  CopiesPreview,
  CopiesRequest,
  CopyAnewRequest,
  CrsAdvice,
  CrsCandidate,
  CrsView,
  DeletionView,
  DigitiseRequest,
  DigitisedView,
  DrawnShape,
  DriveView,
  DroppedMapRequest,
  EditApplied,
  EditPreview,
  EditRequest,
  EditableRequest,
  EditableView,
  EditionLook,
  EditionRequest,
  EditionView,
  ExportPreview,
  ExportRequest,
  FetchRequest,
  FindServiceRequest,
  FolderPlanBody,
  FolderPlanView,
  FolderView,
  FoldersView,
  FoundServiceView,
  GeodatabaseFinding,
  GeodatabasesView,
  HostRequest,
  HousekeepingView,
  IdentifiedLayer,
  IdentifyRequest,
  ImportPreview,
  ImportRequest,
  IntakeRequest,
  IntakeView,
  JobView,
  JournalQuery,
  KeepDraftRequest,
  KeepMapRequest,
  KeptLook,
  KeptReviewTemplate,
  KeptView,
  LayerPictureRequest,
  LayerPictureView,
  LinkAdvice,
  LinkedFolderView,
  LoneMapView,
  LookReplacementRequest,
  MapCrsView,
  MapDocView,
  MapFromTableRequest,
  MapFromTableView,
  MapPageRequest,
  MatchPointsRequest,
  MendAnswer,
  MendProjectView,
  MendRequest,
  MissedView,
  NewGeodatabaseBody,
  NewLayerView,
  NewProjectBody,
  NewProjectPreview,
  NewerDataset,
  NewerRequest,
  NoteView,
  NotesView,
  OriginRequest,
  OutsideView,
  PackPreview,
  PackRequest,
  PassageRequest,
  PageShapes,
  PageShapesRequest,
  PathRequest,
  PathsRequest,
  PlaceHosts,
  PlaceRequest,
  PlaceView,
  PointRequest,
  PointedView,
  PreviewView,
  ProblemDetails,
  ProjectSummary,
  ProjectView,
  PutBackRequest,
  QualityCheckRequest,
  QualitySheetView,
  QualityView,
  ReceiveRequest,
  RecordsRequest,
  RecordsView,
  RehearsalRequest,
  RehearsalView,
  RejectRequest,
  ReplaceRequest,
  ReplacementView,
  ReviewRequest,
  ReviewTemplate,
  RowsPage,
  RowsRequest,
  SaveMapRequest,
  SearchRequest,
  SendMemory,
  SendRequest,
  ServiceCopyRequest,
  ServiceFeatures,
  ServiceLayerView,
  ServiceSearchView,
  ServiceSignInRequest,
  ServiceTreeView,
  ServicesView,
  ShapesRequest,
  SourcesView,
  StandInsView,
  StarterLink,
  StatisticsView,
  StatusView,
  StayedOutView,
  StrayMapsView,
  TakeOverRequest,
  ThumbnailView,
  PageLayout,
  ShelvesView,
  TrashedView,
  UndoPreview,
  UndoRequest,
  UndoneView,
} from '@rootmap/core/contract';

/** An answer of the server that is a problem: its sentence is fit for a person. */
export class ServerProblem extends Error {
  constructor(readonly details: ProblemDetails) {
    super(details.detail);
  }
}

const UNREACHABLE: ProblemDetails = {
  type: 'urn:rootmap:problem:unreachable',
  title: 'The server does not answer',
  status: 0,
  detail: 'The server does not answer. Check that it is still running, then try again.',
  code: 'unreachable',
};

const call = <T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> =>
  send<T>(path, {
    method,
    ...(signal ? { signal } : {}),
    ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
  });

async function send<T>(path: string, request: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api/${path}`, request);
  } catch (error) {
    if (request.signal?.aborted) throw error; // nobody waits for it any more
    throw new ServerProblem(UNREACHABLE);
  }
  if (response.status === 204) return undefined as T;
  const value: unknown = await response.json().catch(() => null);
  if (!response.ok) throw new ServerProblem((value as ProblemDetails | null) ?? UNREACHABLE);
  return value as T;
}

const get = <T>(path: string, signal?: AbortSignal): Promise<T> => call<T>('GET', path, undefined, signal);
const post = <T>(path: string, body: unknown = {}, signal?: AbortSignal): Promise<T> => call<T>('POST', path, body, signal);

export interface PathsAnswer {
  readonly changes: readonly {
    readonly map: string;
    readonly layer: string;
    readonly title: string;
    readonly before: string;
    readonly after: string;
  }[];
  readonly kept: readonly {
    readonly map: string;
    readonly layer: string;
    readonly title: string;
    readonly href: string | null;
    readonly why: string;
  }[];
  readonly applied: AppliedView | null;
}

/** Every call that the app makes, typed. */
export const api = {
  status: () => get<StatusView>('status'),
  places: () => get<PlaceView[]>('places'),
  drives: () => get<DriveView[]>('drives'),
  addPlace: (place: PlaceRequest) => post<PlaceView[]>('places', place),
  callPlace: (name: string, driveName: string) =>
    post<{ isKept: boolean }>(`places/${encodeURIComponent(name)}/drive-names`, { driveName }),
  allowHostIn: (place: string, body: HostRequest) => call<PlaceView[]>('PUT', `places/${encodeURIComponent(place)}/hosts`, body),
  allowHostEverywhere: (body: HostRequest) => call<PlaceHosts>('PUT', 'hosts', body),
  removePlace: (name: string) => call<PlaceView[]>('DELETE', `places/${encodeURIComponent(name)}`),
  demoPlace: (name: string, change: { present?: boolean; driveName?: string }) =>
    post<PlaceView[]>(`demo/places/${encodeURIComponent(name)}`, change),
  folder: (at: PathRequest) => get<FolderView>(`folder?place=${encodeURIComponent(at.place)}&path=${encodeURIComponent(at.path)}`),
  projects: () => get<ProjectSummary[]>('projects'),
  openProject: (at: PathRequest) => post<{ key: string }>('projects', at),
  findProject: (key: string) => post<{ found: readonly string[] }>(`projects/${key}/find`),
  closeProject: (key: string) => call<void>('DELETE', `projects/${key}`),
  project: (key: string) => get<ProjectView>(`projects/${key}`),
  rescan: (key: string) => post<ProjectView>(`projects/${key}/rescan`),
  remember: (key: string) => post<AppliedView>(`projects/${key}/remember`),
  mend: async (key: string, search: SearchRequest, signal?: AbortSignal): Promise<MendProjectView> => {
    const { more, ...view } = await post<MendAnswer>(`projects/${key}/mend/explain`, search, signal);
    const layers = [...view.layers];
    for (const id of more) layers.push(...(await get<MendProjectView['layers']>(`projects/${key}/mend/pages/${id}`, signal)));
    return { ...view, layers };
  },
  deletionOf: (key: string, path: string) => post<{ change: DeletionView | null }>(`projects/${key}/mend/deletion`, { path }),
  openMap: (at: PathRequest) => post<LoneMapView>('lone-maps', at),
  strayMaps: (signal?: AbortSignal) => call<StrayMapsView>('GET', 'lone-maps', undefined, signal),
  findMap: (dropped: DroppedMapRequest) => post<readonly PathRequest[]>('lone-maps/find', dropped),
  keepMap: (body: KeepMapRequest) => post<LoneMapView>('lone-maps/keep', body),
  point: (key: string, body: PointRequest) => post<PointedView>(`projects/${key}/mend/point`, body),
  replacement: (key: string, body: LookReplacementRequest) => post<ReplacementView>(`projects/${key}/mend/replacement`, body),
  replaceData: (key: string, body: ReplaceRequest) => post<AppliedView>(`projects/${key}/mend/replace`, body),
  rejectCandidate: (key: string, body: RejectRequest & SearchRequest) => post<void>(`projects/${key}/mend/reject`, body),
  forgiveRejected: (key: string, keys: readonly string[]) => post<{ forgiven: number }>(`projects/${key}/mend/forgive`, { keys }),
  applyMend: (key: string, body: MendRequest) => post<AppliedView>(`projects/${key}/mend/apply`, body),
  paths: (key: string, body: PathsRequest) => post<PathsAnswer>(`projects/${key}/paths`, body),
  journal: (only: Partial<Record<keyof JournalQuery, string>>) => get<ChangeView[]>(`journal?${new URLSearchParams(only).toString()}`),
  changedFiles: (id: string) => get<ChangedFilesView>(`journal/${id}/files`),
  previewUndo: (id: string) => get<UndoPreview>(`journal/${id}/undo`),
  undo: (id: string, order: UndoRequest) => post<UndoneView>(`journal/${id}/undo`, order),
  sendMemory: (key: string) => get<SendMemory>(`projects/${key}/bundle`),
  bundle: (key: string, send: SendRequest, signal?: AbortSignal) => call<PackPreview>('POST', `projects/${key}/bundle/plan`, send, signal),
  pack: (key: string, body: PackRequest) => post<JobView<'pack'>>(`projects/${key}/bundle`, body),
  lookIntoBundle: (bundle: PathRequest, signal?: AbortSignal) => call<BundleView>('POST', 'receive/look', { bundle }, signal),
  compareEdition: (body: EditionRequest, signal?: AbortSignal) => call<EditionView>('POST', 'receive/compare', body, signal),
  takeOver: (body: TakeOverRequest) => post<JobView<'receive'>>('receive/take-over', body),
  receive: (body: ReceiveRequest) => post<JobView<'receive'>>('receive', body),
  folders: (key: string) => get<FoldersView>(`projects/${key}/folders`),
  linkedFolder: (key: string, name: string) => get<LinkedFolderView>(`projects/${key}/links/${encodeURIComponent(name)}/folders`),
  planEdit: (key: string, edit: EditRequest, quick = false) =>
    post<EditPreview>(`projects/${key}/edits/plan${quick ? '?quick=1' : ''}`, edit),
  applyEdit: (key: string, edit: EditRequest) => post<EditApplied>(`projects/${key}/edits`, edit),
  adoption: (key: string, body: AdoptRequest) => post<AdoptView>(`projects/${key}/adoption`, body),
  housekeeping: (key: string) => get<HousekeepingView>(`projects/${key}/housekeeping`),
  duplicates: (key: string) => post<JobView<'duplicates'>>(`projects/${key}/duplicates`),
  missed: (key: string) => get<MissedView>(`projects/${key}/missed`),
  trash: (key: string) => get<TrashedView[]>(`projects/${key}/trash`),
  emptyTrash: (key: string) => call<{ bytes: number }>('DELETE', `projects/${key}/trash`),
  acceptOriginals: (key: string) => post<void>(`projects/${key}/originals/accept`),
  sources: (key: string) => get<SourcesView>(`projects/${key}/sources`),
  /** The bytes of a dropped file go as they are; a drop is known by a uuid. */
  upload: (drop: string, path: string, file: File) =>
    send<{ id: string }>(`arrivals?drop=${drop}&path=${encodeURIComponent(path)}&modified=${file.lastModified}`, {
      method: 'PUT',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    }),
  chooseArrival: (at: PathRequest) => post<{ id: string }>('arrivals', at),
  forgetArrival: (id: string) => call<void>('DELETE', `arrivals/${id}`),
  pair: (id: string, at: PathRequest) => post<void>(`arrivals/${id}/companions`, at),
  arrival: (key: string, id: string) => get<IntakeView>(`projects/${key}/arrivals/${id}`),
  bringIn: (key: string, id: string, body: IntakeRequest) => post<JobView<'intake'>>(`projects/${key}/arrivals/${id}`, body),
  notes: (key: string, dataset: string) => get<NotesView>(`projects/${key}/notes?dataset=${encodeURIComponent(dataset)}`),
  note: (key: string, dataset: string, note: string, signal: AbortSignal) =>
    get<NoteView>(`projects/${key}/notes/text?dataset=${encodeURIComponent(dataset)}&note=${encodeURIComponent(note)}`, signal),
  document: (key: string, at: PathRequest, signal: AbortSignal) =>
    get<NoteView>(`projects/${key}/documents?place=${encodeURIComponent(at.place)}&path=${encodeURIComponent(at.path)}`, signal),
  packedNote: (key: string, id: string, path: string, signal: AbortSignal) =>
    get<NoteView>(`projects/${key}/arrivals/${id}/note?path=${encodeURIComponent(path)}`, signal),
  takePassage: (key: string, body: PassageRequest) => post<AppliedView>(`projects/${key}/passages`, body),
  writeOrigin: (key: string, body: OriginRequest) => post<AppliedView>(`projects/${key}/origins`, body),
  crsCandidates: (key: string, dataset: string) =>
    get<CrsCandidate[]>(`projects/${key}/crs-candidates?dataset=${encodeURIComponent(dataset)}`),
  geodatabases: (key: string) => get<GeodatabasesView>(`projects/${key}/geodatabases`),
  makeGeodatabase: (key: string, body: NewGeodatabaseBody) => post<AppliedView>(`projects/${key}/geodatabases`, body),
  planImport: (key: string, body: ImportRequest) => post<ImportPreview>(`projects/${key}/geodatabases/import/plan`, body),
  startImport: (key: string, body: ImportRequest) => post<JobView<'import'>>(`projects/${key}/geodatabases/import`, body),
  checkGeodatabase: (key: string, at: PathRequest) =>
    get<GeodatabaseFinding[]>(
      `projects/${key}/geodatabases/check?place=${encodeURIComponent(at.place)}&path=${encodeURIComponent(at.path)}`,
    ),
  planCopies: (key: string, body: CopiesRequest) => post<CopiesPreview>(`projects/${key}/copies/plan`, body),
  startCopies: (key: string, body: CopiesRequest) => post<JobView<'copies'>>(`projects/${key}/copies`, body),
  preview: (key: string, dataset: string, crs: string | null, signal: AbortSignal) =>
    send<PreviewView>(`projects/${key}/preview?dataset=${encodeURIComponent(dataset)}${crs ? `&crs=${crs}` : ''}`, { signal }),
  thumbnails: (key: string, datasets: readonly string[]) => post<(ThumbnailView | null)[]>(`projects/${key}/thumbnails`, { datasets }),
  statistics: (key: string, dataset: string, signal: AbortSignal) =>
    send<StatisticsView>(`projects/${key}/statistics?dataset=${encodeURIComponent(dataset)}`, { signal }),
  planExport: (key: string, body: ExportRequest) => post<ExportPreview>(`projects/${key}/exports/plan`, body),
  startExport: (key: string, body: ExportRequest) => post<JobView<'export'>>(`projects/${key}/exports`, body),
  rows: (key: string, body: RowsRequest, signal: AbortSignal) => post<RowsPage>(`projects/${key}/rows`, body, signal),
  projectNotes: (key: string) => get<ProjectNote[]>(`projects/${key}/project-notes`),
  showInFiles: (at: PathRequest) => post<void>('show', at),
  identify: (body: IdentifyRequest, signal: AbortSignal) => post<IdentifiedLayer[]>('identify', body, signal),
  shapes: (body: ShapesRequest, signal: AbortSignal) => post<DrawnShape[]>('shapes', body, signal),
  pageShapes: (body: PageShapesRequest, signal: AbortSignal) => post<PageShapes | null>('page-shapes', body, signal),
  records: (key: string, body: RecordsRequest, signal: AbortSignal) => post<RecordsView>(`projects/${key}/records`, body, signal),
  mapDoc: (key: string, path: string, editor: string) =>
    get<MapDocView>(`projects/${key}/maps/doc?path=${encodeURIComponent(path)}&editor=${editor}`),
  keepDraft: (key: string, body: KeepDraftRequest) => post<KeptView>(`projects/${key}/maps/draft`, body),
  dropDraft: (key: string, path: string, editor: string) =>
    call<void>('DELETE', `projects/${key}/maps/draft?path=${encodeURIComponent(path)}&editor=${editor}`),
  saveMap: (key: string, body: SaveMapRequest) => post<JobView<'save'>>(`projects/${key}/maps/save`, body),
  newLayers: (key: string, path: string, datasets: readonly string[]) =>
    post<NewLayerView[]>(`projects/${key}/maps/new-layers`, { path, datasets }),
  crsAdvice: (key: string, datasets: readonly string[]) => post<CrsAdvice>(`projects/${key}/maps/crs-advice`, { datasets }),
  mapCrs: (code: string) => get<MapCrsView | undefined>(`map-crs?code=${encodeURIComponent(code)}`),
  stylePictureUrl: (key: string, path: string, layer: string, href: string) =>
    `/api/projects/${key}/maps/style-picture?path=${encodeURIComponent(path)}&layer=${encodeURIComponent(layer)}&href=${encodeURIComponent(href)}`,
  rehearse: (key: string, body: RehearsalRequest) => post<RehearsalView>(`projects/${key}/maps/rehearsal`, body),
  outside: (key: string, at: PathRequest) => post<OutsideView>(`projects/${key}/maps/outside`, at),
  editable: (key: string, body: EditableRequest) => post<EditableView>(`projects/${key}/maps/editable`, body),
  digitise: (key: string, body: DigitiseRequest) => post<DigitisedView>(`projects/${key}/maps/digitised`, body),
  writePrint: (key: string, at: PathRequest, title: string, file: Blob) =>
    send<AppliedView>(
      `projects/${key}/maps/print?place=${encodeURIComponent(at.place)}&path=${encodeURIComponent(at.path)}&title=${encodeURIComponent(title)}`,
      { method: 'PUT', headers: { 'content-type': 'application/octet-stream' }, body: file },
    ),
  keepMapPage: (key: string, { path, base, without }: MapPageRequest, file: Blob) =>
    send<void>(`projects/${key}/maps/page?${new URLSearchParams({ path, base, without: without.join('\n') }).toString()}`, {
      method: 'PUT',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    }),
  newMap: (key: string, title: string, storedForm: 'relative' | 'absolute' | null) =>
    post<{ map: string }>(`projects/${key}/maps`, { title, storedForm }),
  /** As an address that an image shows; null: there is none. */
  mapPicture: async (key: string, path: string, of: string): Promise<string | null> => {
    const response = await fetch(`/api/projects/${key}/maps/picture?${new URLSearchParams({ path, of }).toString()}`);
    return response.status === 200 ? URL.createObjectURL(await response.blob()) : null;
  },
  mapFromTable: (key: string, body: MapFromTableRequest) => post<MapFromTableView>(`projects/${key}/maps/from-table`, body),
  layerPicture: (key: string, body: LayerPictureRequest, signal: AbortSignal) =>
    post<LayerPictureView>(`projects/${key}/layer-picture`, body, signal),
  classes: (key: string, body: ClassesRequest) => post<ClassesView>(`projects/${key}/classes`, body),
  linkAdvice: (key: string, at: PathRequest) =>
    get<LinkAdvice>(`projects/${key}/link-advice?place=${encodeURIComponent(at.place)}&path=${encodeURIComponent(at.path)}`),
  quality: (key: string) => get<QualityView>(`projects/${key}/quality`),
  qualitySheet: (key: string, dataset: string) =>
    get<QualitySheetView>(`projects/${key}/quality/sheet?dataset=${encodeURIComponent(dataset)}`),
  checkQuality: (key: string, body: QualityCheckRequest) => post<JobView<'quality'>>(`projects/${key}/quality/check`, body),
  compareEditions: (key: string, body: CompareEditionsRequest) => post<RecordComparison>(`projects/${key}/quality/compare`, body),
  codes: (key: string, dataset: string) =>
    get<Readonly<Record<string, readonly string[]>>>(`projects/${key}/quality/codes?dataset=${encodeURIComponent(dataset)}`),
  reviewTemplates: () => get<readonly KeptReviewTemplate[]>('review-templates'),
  keepReviewTemplate: (body: ReviewTemplate) => post<readonly KeptReviewTemplate[]>('review-templates', body),
  dropReviewTemplate: (id: string) => call<readonly KeptReviewTemplate[]>('DELETE', `review-templates/${id}`),
  shelves: () => get<ShelvesView>('shelves'),
  keepLayout: (body: PageLayout) => call<ShelvesView>('PUT', 'shelves/layouts', body),
  dropLayout: (name: string) => call<ShelvesView>('DELETE', `shelves/layouts?name=${encodeURIComponent(name)}`),
  keepLook: (body: KeptLook) => call<ShelvesView>('PUT', 'shelves/looks', body),
  dropLook: (name: string) => call<ShelvesView>('DELETE', `shelves/looks?name=${encodeURIComponent(name)}`),
  matchPoints: (key: string, body: MatchPointsRequest) => post<MatchedPoints>(`projects/${key}/quality/match-points`, body),
  reviewQuality: (key: string, body: ReviewRequest) => call<AppliedView>('PUT', `projects/${key}/quality/review`, body),
  services: (key: string) => get<ServicesView>(`projects/${key}/services`),
  askServices: (key: string, urls: readonly string[]) => post<ServicesView>(`projects/${key}/services/ask`, { urls }),
  findService: (key: string, body: FindServiceRequest) => post<FoundServiceView>(`projects/${key}/services/find`, body),
  serviceTree: (key: string, url: string, anew: boolean, signal?: AbortSignal) =>
    post<ServiceTreeView>(`projects/${key}/services/tree`, { url, anew }, signal),
  searchService: (key: string, url: string, words: string, signal: AbortSignal) =>
    post<ServiceSearchView>(`projects/${key}/services/search`, { url, words }, signal),
  serviceSignIn: (key: string, body: ServiceSignInRequest) => call<void>('PUT', `projects/${key}/services/sign-in`, body),
  allowHost: (key: string, body: HostRequest) => call<ServicesView>('PUT', `projects/${key}/services/hosts`, body),
  serviceFeatures: (key: string, layer: string, box: readonly number[], signal?: AbortSignal) =>
    get<ServiceFeatures>(`projects/${key}/services/features?${new URLSearchParams({ layer, box: box.join(',') }).toString()}`, signal),
  serviceLayers: (key: string, layers: readonly string[]) => post<ServiceLayerView[]>(`projects/${key}/services/layers`, { layers }),
  fetchAddress: (key: string, body: FetchRequest) => post<JobView<'fetch'>>(`projects/${key}/editions/fetch`, body),
  lookForEditions: (key: string, addresses: readonly string[]) => post<EditionLook[]>(`projects/${key}/editions/look`, { addresses }),
  compareNewer: (key: string, body: NewerRequest) => post<NewerDataset[]>(`projects/${key}/editions/compare`, body),
  takeOverNewer: (key: string, body: NewerRequest) => post<AppliedView>(`projects/${key}/editions/take-over`, body),
  copyAnew: (key: string, body: CopyAnewRequest) => post<JobView<'service-copy'>>(`projects/${key}/services/copy-anew`, body),
  stayedOut: (key: string) => get<StayedOutView[]>(`projects/${key}/editions/stayed-out`),
  putBack: (key: string, body: PutBackRequest) => post<JobView<'put-back'>>(`projects/${key}/editions/put-back`, body),
  copyService: (key: string, body: ServiceCopyRequest) => post<JobView<'service-copy'>>(`projects/${key}/services/copy`, body),
  standIns: () => get<StandInsView>('demo/stand-ins'),
  setStandIns: (body: Readonly<Record<string, boolean>>) => call<StandInsView>('PUT', 'demo/stand-ins', body),
  plans: () => get<FolderPlanView[]>('plans'),
  savePlan: (plan: FolderPlanBody) => post<FolderPlanView[]>('plans', plan),
  removePlan: (id: string) => call<FolderPlanView[]>('DELETE', `plans/${encodeURIComponent(id)}`),
  searchCrs: (text: string) => get<CrsView[]>(`crs?q=${encodeURIComponent(text)}`),
  crsAt: (longitude: number, latitude: number) => get<CrsView[]>(`crs?longitude=${longitude}&latitude=${latitude}`),
  starterLinks: () => get<StarterLink[]>('starter-links'),
  planNewProject: (body: NewProjectBody) => post<NewProjectPreview>('new-project/plan', body),
  createProject: (body: NewProjectBody) => post<{ key: string }>('new-project', body),
  jobs: () => get<JobView[]>('jobs'),
  cancelJob: (id: string) => post<void>(`jobs/${id}/cancel`),
};
