import type { INestApplication } from '@nestjs/common';
import type { Express, Request, Response } from 'express';
import * as contract from '@rootmap/core/contract';

interface Operation {
  readonly summary?: string;
}
type Paths = Record<string, Record<string, Operation & { requestBody?: unknown }>>;

/** Which request schema belongs to which operation; query parameters are described by the same schema. */
const BODIES: Readonly<Record<string, keyof typeof contract>> = {
  'post /api/places': 'placeRequest',
  'post /api/places/{name}/drive-names': 'driveNameRequest',
  'post /api/projects': 'pathRequest',
  'post /api/projects/{key}/mend/explain': 'searchRequest',
  'post /api/projects/{key}/mend/point': 'pointRequest',
  'post /api/projects/{key}/mend/apply': 'mendRequest',
  'post /api/projects/{key}/mend/deletion': 'deletionRequest',
  'post /api/projects/{key}/mend/reject': 'rejectRequest',
  'post /api/projects/{key}/mend/forgive': 'forgiveRequest',
  'post /api/projects/{key}/mend/replacement': 'lookReplacementRequest',
  'post /api/projects/{key}/mend/replace': 'replaceRequest',
  'post /api/lone-maps': 'pathRequest',
  'post /api/lone-maps/find': 'droppedMapRequest',
  'post /api/lone-maps/keep': 'keepMapRequest',
  'post /api/projects/{key}/paths': 'pathsRequest',
  'post /api/projects/{key}/bundle': 'packRequest',
  'post /api/receive': 'receiveRequest',
  'post /api/projects/{key}/edits/plan': 'editRequest',
  'post /api/projects/{key}/edits': 'editRequest',
  'post /api/projects/{key}/adoption': 'adoptRequest',
  'post /api/arrivals': 'pathRequest',
  'post /api/projects/{key}/arrivals/{id}': 'intakeRequest',
  'post /api/projects/{key}/origins': 'originRequest',
  'post /api/plans': 'folderPlanBody',
  'post /api/new-project/plan': 'newProjectBody',
  'post /api/new-project': 'newProjectBody',
  'post /api/demo/places/{name}': 'demoPlaceRequest',
};

async function describe(app: INestApplication): Promise<{ paths: Paths }> {
  const { DocumentBuilder, SwaggerModule } = await import('@nestjs/swagger');
  const config = new DocumentBuilder()
    .setTitle('Root Map')
    .setVersion('0.1.0')
    .setDescription('The interface between the server and its web app.')
    .build();
  const document = SwaggerModule.createDocument(app, config) as unknown as { paths: Paths };
  for (const [operation, name] of Object.entries(BODIES)) {
    const [method = '', path = ''] = operation.split(' ');
    const schema = contract[name] as unknown as { '~standard': { jsonSchema: { input(o: { target: string }): unknown } } };
    const target = document.paths[path]?.[method];
    if (target)
      target.requestBody = {
        required: true,
        content: { 'application/json': { schema: schema['~standard'].jsonSchema.input({ target: 'draft-2020-12' }) } },
      };
  }
  return document;
}

const escape = (text: string): string => text.replace(/[&<>"]/g, (ch) => `&#${ch.charCodeAt(0)};`);

/** OpenAPI at `/api/docs`: JSON for programs, a plain page for people. Made at the first request, so that starting stays quick. */
export function serveApiDocs(http: Express, app: INestApplication): void {
  let document: Promise<{ paths: Paths }> | null = null;
  http.get('/api/docs', (request: Request, response: Response, next) => {
    document ??= describe(app);
    document.then((d) => {
      if (request.accepts(['json', 'html']) !== 'html') return void response.json(d);
      const rows = Object.entries(d.paths).flatMap(([path, methods]) =>
        Object.keys(methods).map((m) => `<tr><td>${m.toUpperCase()}</td><td><code>${escape(path)}</code></td></tr>`),
      );
      response
        .type('html')
        .send(
          `<!doctype html><html lang="en"><title>Root Map: interface</title><h1>Root Map: interface</h1><p>As OpenAPI: ask for <code>application/json</code>.</p><table>${rows.join('')}</table>`,
        );
    }, next);
  });
}
