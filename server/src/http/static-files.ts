import { existsSync, readFileSync } from 'node:fs';
import { join } from '@rootmap/engine';
import express, { type Express, type NextFunction, type Request, type Response } from 'express';
import sirv from 'sirv';

const YEAR = 365 * 24 * 3600;

/** The built web app: hashed assets for good, the page itself for every other address that is not the API's. */
export function serveWeb(app: Express, folder: string): void {
  const page = join(folder, 'index.html');
  // Packed when they were built: packing them at each request takes longer than to send them.
  const assets = join(folder, 'assets');
  if (existsSync(assets)) app.use('/assets', sirv(assets, { gzip: true, immutable: true, maxAge: YEAR, extensions: [] }));
  app.use('/assets', (_request: Request, response: Response) => void response.status(404).end());
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
