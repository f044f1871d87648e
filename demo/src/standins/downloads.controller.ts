import { createHash } from 'node:crypto';
import { Controller, Get, HttpException, Inject, Param, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { zipSync } from 'fflate';
import { UTM_24N } from '../crs-texts.js';
import { shapefile } from '../files-in-memory.js';
import { seeded } from '../random.js';
import { points, toDegrees } from '../shapes.js';
import { SWITCHES } from './charts.controller.js';
import type { Switches } from './switches.js';

interface Edition {
  readonly bytes: Buffer;
  readonly type: string;
  readonly etag: string;
  readonly modified: Date;
}
const FIRST = new Date('2026-03-01T00:00:00Z');
const SECOND = new Date('2026-11-01T00:00:00Z');

/** Beacons of the islets: the second edition has more of them. */
function makeEditions(isSecond: boolean): Record<string, Edition> {
  const beacons = points(seeded(51), isSecond ? 64 : 50, 'beacon_no');
  const modified = isSecond ? SECOND : FIRST;
  const zip = zipSync(
    Object.fromEntries(
      Object.entries(shapefile('islet_beacons', beacons, UTM_24N)).map(([name, content]) => [name, Buffer.from(content as string)]),
    ),
    { mtime: modified },
  );
  const degrees = toDegrees(beacons);
  const geojson = {
    type: 'FeatureCollection',
    features: degrees.shapes.map((s, i) => ({
      type: 'Feature',
      geometry: { type: 'Point', coordinates: s[0]![0] },
      properties: Object.fromEntries(degrees.fields.map((f, k) => [f.name, degrees.rows[i]![k]])),
    })),
  };
  const edition = (bytes: Buffer, type: string): Edition => ({
    bytes,
    type,
    etag: `"${createHash('sha256').update(bytes).digest('hex').slice(0, 16)}"`,
    modified,
  });
  return {
    'islet_beacons.zip': edition(Buffer.from(zip), 'application/zip'),
    'islet_beacons.geojson': edition(Buffer.from(JSON.stringify(geojson)), 'application/geo+json'),
  };
}

/** Files by their address: with an `ETag`, a date, and parts of them by `Range` (RFC 9110, 14). */
@Controller('downloads')
export class DownloadsController {
  private readonly editions = [makeEditions(false), makeEditions(true)] as const;

  constructor(@Inject(SWITCHES) private readonly switches: Switches) {}

  @Get(':name')
  get(@Param('name') name: string, @Req() request: Request, @Res() response: Response): void {
    const all = this.editions[this.switches.newEdition ? 1 : 0];
    const file = Object.hasOwn(all, name) ? all[name] : undefined;
    if (!file) throw new HttpException('There is no such file.', 404);
    response.setHeader('etag', file.etag);
    response.setHeader('last-modified', file.modified.toUTCString());
    response.setHeader('accept-ranges', 'bytes');
    response.type(file.type);
    if (request.get('if-none-match') === file.etag) return void response.status(304).end();
    const range = /^bytes=(\d+)-$/.exec(request.get('range') ?? '');
    const condition = request.get('if-range');
    const from = range && (condition === undefined || condition === file.etag) ? Number(range[1]) : 0;
    if (from >= file.bytes.length) return void response.status(416).setHeader('content-range', `bytes */${file.bytes.length}`).end();
    if (from > 0) response.status(206).setHeader('content-range', `bytes ${from}-${file.bytes.length - 1}/${file.bytes.length}`);
    response.setHeader('content-length', file.bytes.length - from);
    response.end(request.method === 'HEAD' ? undefined : file.bytes.subarray(from));
  }
}
