import type { INestApplication } from '@nestjs/common';
import { ModulesContainer } from '@nestjs/core';
import type { Express, Request, Response } from 'express';
import { JoiPipe } from './joi-pipe.js';
import { PARAMS } from './param-pipe.js';

interface Parameter {
  readonly name: string;
  readonly in: string;
  readonly required?: boolean;
  readonly schema?: unknown;
}
interface Operation {
  readonly operationId?: string;
  parameters?: Parameter[];
  requestBody?: unknown;
}
type Paths = Record<string, Record<string, Operation>>;

/** Where Nest keeps what a method's arguments are: `type:index`, with 3 for the body and 4 for the query (its RouteParamtypes). */
const ARGUMENTS = '__routeArguments__';
const BODY = '3';
const QUERY = '4';
type Arguments = Record<string, { readonly pipes: readonly unknown[] }>;

/** Schemas of bodies and queries by operation, read off the pipes that check them: none can be left out. */
function schemasOf(app: INestApplication): Map<string, { body?: object; query?: ObjectSchema }> {
  const schemas = new Map<string, { body?: object; query?: ObjectSchema }>();
  for (const { controllers } of app.get(ModulesContainer).values())
    for (const { metatype } of controllers.values()) {
      if (typeof metatype !== 'function') continue;
      for (const method of Object.getOwnPropertyNames(metatype.prototype)) {
        const args = (Reflect.getMetadata(ARGUMENTS, metatype, method) ?? {}) as Arguments;
        const schemaOf = (type: string): object | undefined => {
          const pipes = Object.entries(args).flatMap(([k, v]) => (k.startsWith(`${type}:`) ? v.pipes : []));
          return pipes.find((p) => p instanceof JoiPipe)?.jsonSchema();
        };
        const [body, query] = [schemaOf(BODY), schemaOf(QUERY) as ObjectSchema | undefined];
        schemas.set(`${metatype.name}_${method}`, { ...(body ? { body } : {}), ...(query ? { query } : {}) });
      }
    }
  return schemas;
}
interface ObjectSchema {
  readonly properties?: Record<string, unknown>;
  readonly required?: readonly string[];
}

async function describe(app: INestApplication): Promise<{ paths: Paths }> {
  const { DocumentBuilder, SwaggerModule } = await import('@nestjs/swagger');
  const config = new DocumentBuilder()
    .setTitle('Root Map')
    .setVersion('0.1.0')
    .setDescription('The interface between the server and its web app.')
    .build();
  const document = SwaggerModule.createDocument(app, config) as unknown as { paths: Paths };
  const schemas = schemasOf(app);
  for (const [path, methods] of Object.entries(document.paths))
    for (const operation of Object.values(methods)) {
      const { body, query } = schemas.get(operation.operationId ?? '') ?? {};
      if (body) operation.requestBody = { required: true, content: { 'application/json': { schema: body } } };
      operation.parameters = [
        ...[...path.matchAll(/{(\w+)}/g)].map(([, name]) => pathParameter(name!)),
        ...Object.entries(query?.properties ?? {}).map(([name, schema]) => ({
          name,
          in: 'query',
          required: query?.required?.includes(name) ?? false,
          schema,
        })),
      ];
    }
  return document;
}

const pathParameter = (name: string): Parameter => ({
  name,
  in: 'path',
  required: true,
  schema: { type: 'string', ...(PARAMS[name] ? { pattern: PARAMS[name].pattern.source } : {}) },
});

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
