import { Global, Module, type DynamicModule } from '@nestjs/common';
import { Workbench } from '@rootmap/engine/workbench';
import type { Config } from '../config.js';
import { Events } from '../http/events.js';

export const CONFIG = Symbol('config');

/** The one workbench, configuration and event stream that all other modules use. */
@Global()
@Module({})
export class WorkbenchModule {
  static with(config: Config, workbench: Workbench, events: Events): DynamicModule {
    const providers = [
      { provide: CONFIG, useValue: config },
      { provide: Workbench, useValue: workbench },
      { provide: Events, useValue: events },
    ];
    return { module: WorkbenchModule, providers, exports: providers };
  }
}
