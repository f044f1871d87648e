import { Global, Module, type DynamicModule } from '@nestjs/common';
import {
  BundleService,
  ChangeService,
  CollectionService,
  EditionService,
  PutBackService,
  ExportService,
  NoteService,
  ReviewTemplateRepository,
  KnownShelves,
  QualityService,
  FolderService,
  GeodatabaseService,
  Jobs,
  LoneMapService,
  MapService,
  MendService,
  OnlineService,
  PictureService,
  PlaceService,
  PlanRepository,
  ProjectService,
  Recoveries,
  SourceService,
  type Workbench,
} from '@rootmap/engine/workbench';
import type { Config } from '../config.js';
import { Events } from '../http/events.js';

export const CONFIG = Symbol('config');

/** The services, by their classes: a controller is given those that it names. */
const servicesOf = (workbench: Workbench) => [
  { provide: BundleService, useValue: workbench.bundles },
  { provide: ChangeService, useValue: workbench.changes },
  { provide: CollectionService, useValue: workbench.collections },
  { provide: EditionService, useValue: workbench.editions },
  { provide: PutBackService, useValue: workbench.putBacks },
  { provide: ExportService, useValue: workbench.exports },
  { provide: NoteService, useValue: workbench.notes },
  { provide: ReviewTemplateRepository, useValue: workbench.reviewTemplates },
  { provide: KnownShelves, useValue: workbench.shelves },
  { provide: QualityService, useValue: workbench.quality },
  { provide: FolderService, useValue: workbench.folders },
  { provide: GeodatabaseService, useValue: workbench.geodatabases },
  { provide: Jobs, useValue: workbench.jobs },
  { provide: LoneMapService, useValue: workbench.loneMaps },
  { provide: MapService, useValue: workbench.maps },
  { provide: MendService, useValue: workbench.mending },
  { provide: OnlineService, useValue: workbench.online },
  { provide: PictureService, useValue: workbench.pictures },
  { provide: PlaceService, useValue: workbench.places },
  { provide: PlanRepository, useValue: workbench.plans },
  { provide: ProjectService, useValue: workbench.projects },
  { provide: Recoveries, useValue: workbench.recoveries },
  { provide: SourceService, useValue: workbench.sources },
];

/** The services, configuration and event stream that all other modules use. */
@Global()
@Module({})
export class WorkbenchModule {
  static with(config: Config, workbench: Workbench, events: Events): DynamicModule {
    const providers = [{ provide: CONFIG, useValue: config }, ...servicesOf(workbench), { provide: Events, useValue: events }];
    return { module: WorkbenchModule, providers, exports: providers };
  }
}
