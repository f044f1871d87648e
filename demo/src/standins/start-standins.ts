import 'reflect-metadata';
import { createServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { Body, Controller, Get, HttpCode, HttpException, Inject, Module, Put } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import type { NextFunction, Request, Response } from 'express';
import { generate } from 'selfsigned';
import { ChartsController, SWITCHES } from './charts.controller.js';
import { DownloadsController } from './downloads.controller.js';
import { LibraryController, MembersController, SOUNDINGS } from './ogc-api.controller.js';
import { isSwitch, switchesAtFirst, type Switches } from './switches.js';

const SLOW_MS = 10_000;
const RETRY_SECONDS = '2';

@Controller('switches')
class SwitchesController {
  constructor(@Inject(SWITCHES) private readonly switches: Switches) {}

  @Get()
  all(): Switches {
    return this.switches;
  }

  @Put()
  @HttpCode(200)
  set(@Body() body: Readonly<Record<string, unknown>>): Switches {
    for (const [name, value] of Object.entries(body)) {
      if (!isSwitch(name) || typeof value !== 'boolean') throw new HttpException(`There is no switch ${name}.`, 400);
      this.switches[name] = value;
    }
    return this.switches;
  }
}

export interface StandIns {
  /** `http://127.0.0.1:PORT` */
  readonly address: string;
  /** The same behind a certificate that the server signed itself. */
  readonly secure: string;
  readonly switches: Switches;
  stop(): Promise<void>;
}

export interface StandInOptions {
  /** 0: a free one. */
  readonly port?: number;
  /** Points of the collection for measuring; 0: it is left out. */
  readonly soundings?: number;
}

/** Small servers that stand in for those of offices and publishers. They answer on loopback only. */
export async function startStandIns({ port = 0, soundings = 0 }: StandInOptions = {}): Promise<StandIns> {
  const switches = switchesAtFirst();
  @Module({
    controllers: [SwitchesController, LibraryController, MembersController, ChartsController, DownloadsController],
    providers: [
      { provide: SWITCHES, useValue: switches },
      { provide: SOUNDINGS, useValue: soundings },
    ],
  })
  class StandInsModule {}
  const app = await NestFactory.create<NestExpressApplication>(StandInsModule, { logger: ['error'], abortOnError: false });
  const http = app.getHttpAdapter().getInstance();
  http.disable('x-powered-by');
  http.use(misbehave(switches));
  await app.listen(port, '127.0.0.1');
  const server = app.getHttpServer() as { address(): AddressInfo };
  const own = await generate([{ name: 'commonName', value: '127.0.0.1' }], { keySize: 2048 });
  const secure = createServer({ key: own.private, cert: own.cert }, http);
  await new Promise<void>((done) => secure.listen(0, '127.0.0.1', done));
  return {
    address: `http://127.0.0.1:${server.address().port}`,
    secure: `https://127.0.0.1:${(secure.address() as AddressInfo).port}`,
    switches,
    stop: async () => {
      secure.closeAllConnections();
      secure.close();
      await app.close();
    },
  };
}

const misbehave = (switches: Switches) => (request: Request, response: Response, next: NextFunction) => {
  if (request.path.startsWith('/switches')) return next();
  if (switches.failing) return void response.status(503).setHeader('retry-after', RETRY_SECONDS).send('Out of order.');
  if (!switches.slow) return next();
  const timer = setTimeout(next, SLOW_MS);
  response.on('close', () => clearTimeout(timer));
};
