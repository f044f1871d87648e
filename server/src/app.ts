import 'reflect-metadata';
import { Module, type DynamicModule } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import compression from 'compression';
import type { Express, Request } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import { PlaceService, Workbench } from '@rootmap/engine/workbench';
import { BundlesModule } from './bundles/bundles.module.js';
import { isLoopback, type Config } from './config.js';
import { DemoModule } from './demo/demo.module.js';
import { FoldersModule } from './folders/folders.module.js';
import { serveApiDocs } from './http/api-docs.js';
import { readBody } from './http/body.js';
import { Events } from './http/events.js';
import { guard } from './http/guard.js';
import { nestLogger } from './http/nest-logger.js';
import { ParamPipe } from './http/param-pipe.js';
import { ProblemFilter } from './http/problem-filter.js';
import { serveWeb } from './http/static-files.js';
import { JobsModule } from './jobs/jobs.module.js';
import { JournalModule } from './journal/journal.module.js';
import { MendModule } from './mend/mend.module.js';
import { NotesModule } from './notes/notes.module.js';
import { PathsModule } from './paths/paths.module.js';
import { PlacesModule } from './places/places.module.js';
import { PlansModule } from './plans/plans.module.js';
import { ShelvesModule } from './shelves/shelves.module.js';
import { ProjectsModule } from './projects/projects.module.js';
import { QualityModule } from './quality/quality.module.js';
import { ExportsModule } from './exports/exports.module.js';
import { GeodatabasesModule } from './geodatabases/geodatabases.module.js';
import { MapsModule } from './maps/maps.module.js';
import { PicturesModule } from './pictures/pictures.module.js';
import { ServicesModule } from './services/services.module.js';
import { SourcesModule } from './sources/sources.module.js';
import { tidyWhenIdle } from './http/tidy-when-idle.js';
import { WorkbenchModule } from './workbench/workbench.module.js';

@Module({})
class AppModule {
  static with(config: Config, workbench: Workbench, events: Events): DynamicModule {
    return {
      module: AppModule,
      imports: [
        WorkbenchModule.with(config, workbench, events),
        PlacesModule,
        ProjectsModule,
        FoldersModule,
        PlansModule,
        ShelvesModule,
        SourcesModule,
        NotesModule,
        ServicesModule,
        PicturesModule,
        MapsModule,
        ExportsModule,
        QualityModule,
        GeodatabasesModule,
        MendModule,
        PathsModule,
        JournalModule,
        BundlesModule,
        JobsModule,
        DemoModule,
      ],
    };
  }
}

/** That another server does not answer is no error of this one. */
const OF_ANOTHER = 502;

export interface Running {
  readonly app: NestExpressApplication;
  readonly workbench: Workbench;
  stop(): Promise<void>;
}

/** What of a request stands in the log: neither its headers nor what is asked, since both may hold the access key. */
const shownRequest = ({ id, method, url }: { id: unknown; method: string; url: string }) => ({
  id,
  method,
  path: url.replace(/[?#].*$/s, ''),
});

/** Builds the server without listening. `worker` is the script of the worker threads. */
export async function createApp(config: Config, log: Logger, worker: URL): Promise<Running> {
  const events = new Events();
  const workbench = await Workbench.start({
    dataFolder: config.dataFolder,
    places: config.places,
    followsDrives: isLoopback(config.host),
    readLimitMs: config.readLimitMs,
    hosts: config.hosts,
    worker,
    publish: (event) => events.publish(event),
    onBug: (stack) => log.error({ stack }, 'error in a worker'),
  });
  for (const { change, outcome } of workbench.recoveries.all())
    log.warn({ change: change.id, title: change.title, outcome }, 'a change was left midway');
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(config, workbench, events), {
    logger: nestLogger(log),
    bodyParser: false,
    abortOnError: false,
  });
  const http: Express = app.getHttpAdapter().getInstance();
  http.disable('x-powered-by');
  http.use(
    pinoHttp({
      logger: log,
      serializers: { req: shownRequest, res: (r: { statusCode: number }) => ({ status: r.statusCode }) },
      autoLogging: { ignore: (request: { url?: string }) => !request.url?.startsWith('/api/') || request.url.startsWith('/api/events') },
      customLogLevel: (_q, r, e) => (r.statusCode !== OF_ANOTHER && (e || r.statusCode >= 500) ? 'error' : 'debug'),
    }),
  );
  http.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          workerSrc: ["'self'", 'blob:'],
          manifestSrc: ["'self'"],
          baseUri: ["'none'"],
          formAction: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
      strictTransportSecurity: false,
    }),
  );
  http.use(guard(config));
  http.use('/api', tidyWhenIdle());
  http.use(
    compression({
      filter: (request: Request, response) => !request.path.startsWith('/api/events') && compression.filter(request, response),
    }),
  );
  http.use(readBody());
  app.useGlobalPipes(new ParamPipe());
  app.useGlobalFilters(new ProblemFilter(log, (sentence) => app.get(PlaceService).told(sentence)));
  serveApiDocs(http, app);
  serveWeb(http, config.webFolder); // before Nest, which answers every address that it does not know
  await app.init();
  return {
    app,
    workbench,
    stop: async () => {
      await app.close();
      await workbench.stop();
    },
  };
}
