import type { DataSource } from 'typeorm';
import type { ServerEvent } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { setBounds } from '../disk/bounds.js';
import { mkdirSync, rmSync } from '../disk/files.js';
import { gridsBelow } from '../disk/grids-folder.js';
import { setScratch } from '../disk/scratch.js';
import { driveFolders } from '../places/drives.js';
import type { PlaceSetting } from '../places/places.js';
import { ServiceDesk } from '../online/service-desk.js';
import { Pool, scratchFolder } from '../pool/pool.js';
import { DraftRepository } from '../repositories/draft-repository.js';
import { MendDecisionRepository } from '../repositories/mend-decision-repository.js';
import { MissedMoveRepository } from '../repositories/missed-move-repository.js';
import { PlaceRepository } from '../repositories/place-repository.js';
import { PlanRepository } from '../repositories/plan-repository.js';
import { ProjectRepository } from '../repositories/project-repository.js';
import { ReviewTemplateRepository } from '../repositories/review-template-repository.js';
import { KnownShelves } from '../store/known-shelves.js';
import { SeenFolderRepository } from '../repositories/seen-folder-repository.js';
import { SentRepository } from '../repositories/sent-repository.js';
import { BundleService } from '../services/bundle-service.js';
import { ChangeService } from '../services/change-service.js';
import { CollectionService } from '../services/collection-service.js';
import { EditionService } from '../services/edition-service.js';
import { ExportService } from '../services/export-service.js';
import { FolderService } from '../services/folder-service.js';
import { GeodatabaseService } from '../services/geodatabase-service.js';
import { Jobs } from '../services/jobs.js';
import { KnownAgain } from '../services/known-again.js';
import { LoneMapService } from '../services/lone-map-service.js';
import { MapService } from '../services/map-service.js';
import { MendService } from '../services/mend-service.js';
import { NoteService } from '../services/note-service.js';
import { OnlineService } from '../services/online-service.js';
import { OpenMaps } from '../services/open-maps.js';
import { OriginalsService } from '../services/originals-service.js';
import { PictureService } from '../services/picture-service.js';
import { toldPaths } from '../places/told-paths.js';
import { PlaceService } from '../services/place-service.js';
import type { Ports } from '../services/ports.js';
import { ProjectService } from '../services/project-service.js';
import { QualityService } from '../services/quality-service.js';
import { Recoveries } from '../services/recoveries.js';
import { PutBackService } from '../services/put-back-service.js';
import { SourceService } from '../services/source-service.js';
import { KnownEditions } from '../store/known-editions.js';
import { KnownServices } from '../store/known-services.js';
import type { AllowedHost } from '../online/hosts-of-places.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { mapPicturesIn } from '../bundle/map-pages.js';
import { boundsOf } from './bounds-of.js';
import { lockDataFolder } from './data-folder-lock.js';

export interface WorkbenchOptions {
  readonly dataFolder: string;
  readonly places: readonly PlaceSetting[];
  readonly worker: URL;
  readonly publish: (event: ServerEvent) => void;
  readonly onBug: (stack: string) => void;
  /** Whether a place is looked for on drives that come; not where people reach the server who may not see them. */
  readonly followsDrives: boolean;
  /** Hosts of one's own network that services may stand on. */
  readonly hosts?: readonly AllowedHost[];
  /** How long one geodatabase may be read without a word of progress. */
  readonly readLimitMs?: number;
}

const WORKERS = 2;

/** Puts together what the server does, without HTTP: every service, and what it leans on. */
export class Workbench {
  readonly bundles: BundleService;
  readonly changes: ChangeService;
  readonly collections: CollectionService;
  readonly editions: EditionService;
  readonly putBacks: PutBackService;
  readonly exports: ExportService;
  readonly folders: FolderService;
  readonly geodatabases: GeodatabaseService;
  readonly jobs: Jobs;
  readonly loneMaps: LoneMapService;
  readonly maps: MapService;
  readonly mending: MendService;
  readonly notes: NoteService;
  readonly online: OnlineService;
  readonly pictures: PictureService;
  readonly places: PlaceService;
  readonly plans: PlanRepository;
  readonly reviewTemplates: ReviewTemplateRepository;
  readonly shelves: KnownShelves;
  readonly projects: ProjectService;
  readonly quality: QualityService;
  /** Changes that were left midway. */
  readonly recoveries: Recoveries;
  readonly sources: SourceService;

  private constructor(
    { dataFolder, followsDrives, publish, onBug }: WorkbenchOptions,
    private readonly store: DataSource,
    private readonly unlock: () => void,
    places: PlaceRepository,
    private readonly pools: Readonly<Record<'work' | 'pictures' | 'background', Pool>>,
    private readonly desk: ServiceDesk,
  ) {
    const bug = (error: unknown): void => onBug(String((error as Error).stack ?? error));
    const journal = new SqlJournal(store);
    const known = new ProjectRepository(store, places);
    const missed = new MissedMoveRepository(store, known);
    const decisions = new MendDecisionRepository(store);
    const originals = new OriginalsService(store, pools.work);
    const openMaps = new OpenMaps({ places });
    const basic = { pool: pools.work, places, known, publish, onBug: bug };
    this.projects = new ProjectService({
      ...basic,
      seen: new SeenFolderRepository(store),
      originals,
      openMaps,
      background: pools.background,
      journal,
      asked: () => desk.asked(),
    });
    desk.onNews = () => this.projects.allChanged();
    const onNews = (): void => {
      this.projects.allChanged();
      publish({ type: 'journal' });
    };
    this.recoveries = new Recoveries(journal, onNews, bug);
    this.changes = new ChangeService({ ...basic, journal, projects: this.projects, recoveries: this.recoveries, missed });
    this.jobs = new Jobs(
      (job) => publish({ type: 'job', job }),
      bug,
      (sentence) => toldPaths(sentence, places.opened()),
    );
    const ports: Ports = { ...basic, projects: this.projects, changes: this.changes, jobs: this.jobs };
    this.places = new PlaceService(
      places,
      this.projects,
      this.recoveries,
      new KnownAgain(places, known, pools.work, followsDrives ? driveFolders : () => []),
      desk.hosts,
      bug,
    );
    this.plans = new PlanRepository(store);
    this.reviewTemplates = new ReviewTemplateRepository(store);
    this.shelves = new KnownShelves(store);
    const drafts = new DraftRepository(store);
    const mapPictures = mapPicturesIn(dataFolder);
    this.bundles = new BundleService(
      { ...ports, drafts, sent: new SentRepository(store), editions: new KnownEditions(store) },
      mapPictures,
    );
    this.exports = new ExportService(ports);
    this.folders = new FolderService(ports, originals, missed);
    this.geodatabases = new GeodatabaseService(ports);
    this.loneMaps = new LoneMapService(ports, openMaps);
    this.maps = new MapService(ports, drafts, mapPictures, pools.background);
    this.mending = new MendService(ports, decisions, journal);
    this.online = new OnlineService(ports, desk);
    this.collections = new CollectionService(ports, desk, this.online, this.geodatabases, join(dataFolder, 'fetching'));
    this.pictures = new PictureService(ports, pools.pictures, pools.background);
    this.quality = new QualityService(ports);
    this.sources = new SourceService(ports, this.pictures, this.quality, join(dataFolder, 'arrivals'));
    this.notes = new NoteService(ports, this.sources);
    this.editions = new EditionService(ports, desk, this.sources, join(dataFolder, 'fetching'));
    this.putBacks = new PutBackService(ports, this.editions);
  }

  static async start(options: WorkbenchOptions): Promise<Workbench> {
    const { worker: script, dataFolder, onBug, readLimitMs } = options;
    const store = await openStore(dataFolder);
    const unlock = await lockOrClose(dataFolder, store);
    const places = await PlaceRepository.open(store, options.places);
    setBounds(boundsOf(places, dataFolder));
    rmSync(scratchFolder(dataFolder)); // of processes that ended before they could tidy up
    setScratch(join(scratchFolder(dataFolder), 'server'));
    mkdirSync(gridsBelow(dataFolder), { recursive: true }); // so that it is found by whoever looks for it
    const limit = readLimitMs === undefined ? {} : { readLimitMs };
    const poolOf = (size: number, niceness = 0): Pool => new Pool({ script, dataFolder, size, onBug, niceness, ...limit });
    // Pictures step back, so that the page that shows them answers while they are made.
    const pools = { work: poolOf(WORKERS), pictures: poolOf(1, 5), background: poolOf(1, 15) };
    const desk = await ServiceDesk.open(new KnownServices(store), { dataFolder, hosts: options.hosts ?? [] });
    const workbench = new Workbench(options, store, unlock, places, pools, desk);
    await workbench.recoveries.start();
    workbench.places.start();
    return workbench;
  }

  async stop(): Promise<void> {
    this.places.stop();
    await this.recoveries.stop();
    await this.projects.stop();
    await Promise.all([this.desk.close(), ...Object.values(this.pools).map((pool) => pool.close())]);
    await this.store.destroy();
    this.unlock();
  }
}

async function lockOrClose(dataFolder: string, store: DataSource): Promise<() => void> {
  try {
    return lockDataFolder(dataFolder);
  } catch (error) {
    await store.destroy();
    throw error;
  }
}
