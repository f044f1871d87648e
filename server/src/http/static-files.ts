import { existsSync, readFileSync } from 'node:fs';
import { join } from '@rootmap/engine';
import express, { type Express, type NextFunction, type Request, type Response } from 'express';

/** The built web app: hashed assets for good, the page itself for every other address that is not the API's. */
export function serveWeb(app: Express, folder: string): void {
  const page = join(folder, 'index.html');
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', index: false, fallthrough: false }));
  app.use(express.static(folder, { index: false, maxAge: 0, dotfiles: 'ignore' }));
  app.use((request: Request, response: Response, next: NextFunction) => {
    if (request.method !== 'GET' || request.path.startsWith('/api/') || !request.accepts('html')) return next();
    if (!existsSync(page)) {
      response.status(503).type('text/plain').send('The web app is not built yet: run "npm run setup" once.');
      return;
    }
    response.setHeader('cache-control', 'no-cache');
    response.type('html').send(readFileSync(page, 'utf8'));
  });
}
