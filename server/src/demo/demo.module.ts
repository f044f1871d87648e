import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Put } from '@nestjs/common';
import Joi from 'joi';
import { basename, dirname, join } from '@rootmap/engine';
import { parseDriveName, ProblemError } from '@rootmap/core';
import { demoPlaceRequest, type DemoPlaceRequest, type PlaceView, type StandInsView, type StatusView } from '@rootmap/core/contract';
import { PlaceService, Recoveries } from '@rootmap/engine/workbench';
import { isLoopback, type Config } from '../config.js';
import { JoiPipe } from '../http/joi-pipe.js';
import { CONFIG } from '../workbench/workbench.module.js';

const VERSION = '0.1.0';

@Controller('api')
class DemoController {
  constructor(
    @Inject(PlaceService) private readonly places: PlaceService,
    @Inject(Recoveries) private readonly recoveries: Recoveries,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  @Get('status')
  status(): StatusView {
    return {
      version: VERSION,
      demo: this.config.demoFolder !== null,
      standIns: this.config.standIns !== null,
      placesEditable: isLoopback(this.config.host) && !this.places.configured,
      hostsEditable: isLoopback(this.config.host),
      showsFiles: isLoopback(this.config.host),
      hosts: this.places.hostsOfAll(),
      notices: this.recoveries.notices(),
    };
  }

  /** Stand-in for pulling a stick, or for its coming back under another letter. The folder of the device is moved aside. */
  @Post('demo/places/:name')
  @HttpCode(200)
  async device(@Param('name') name: string, @Body(new JoiPipe(demoPlaceRequest)) body: DemoPlaceRequest): Promise<PlaceView[]> {
    const demo = this.config.demoFolder;
    if (demo === null) throw new ProblemError({ code: 'wrong-use', message: 'Devices can be simulated in the demo only.' });
    const view = this.places.view().find((p) => p.name === name);
    if (!view || dirname(dirname(view.folder)) !== demo) throw new ProblemError({ code: 'not-found', what: 'simulated device', id: name });
    const aside = join(demo, 'unplugged', basename(view.folder));
    mkdirSync(dirname(aside), { recursive: true });
    if (body.present === false && existsSync(view.folder)) renameSync(view.folder, aside);
    if (body.present === true && existsSync(aside)) renameSync(aside, view.folder);
    if (body.driveName !== undefined) {
      if (!parseDriveName(body.driveName))
        throw new ProblemError({
          code: 'bad-address',
          text: body.driveName,
          why: 'a drive name is a letter with a colon (F:) or \\\\server\\share',
        });
      await this.places.rename(name, [body.driveName]);
    } else await this.places.changed();
    return this.places.view();
  }
}

const switchesRequest = Joi.object().pattern(Joi.string().max(40), Joi.boolean()).required();

/** The servers that stand in for those of others: how they behave. */
@Controller('api/demo/stand-ins')
class StandInsController {
  constructor(@Inject(CONFIG) private readonly config: Config) {}

  private async ask(body: object | null): Promise<StandInsView> {
    const [address, secure] = this.config.standIns ?? [null, null];
    if (address === null)
      throw new ProblemError({ code: 'wrong-use', message: 'No servers stand in here: start the demo by npm run demo.' });
    const answer = await fetch(
      `${address}/switches`,
      body ? { method: 'PUT', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {},
    ).catch(() => null);
    if (!answer?.ok) throw new ProblemError({ code: 'no-service', host: new URL(address).host, trouble: 'refused' });
    return { address, secure, switches: (await answer.json()) as StandInsView['switches'] };
  }

  @Get()
  view(): Promise<StandInsView> {
    return this.ask(null);
  }

  @Put()
  set(@Body(new JoiPipe(switchesRequest)) body: object): Promise<StandInsView> {
    return this.ask(body);
  }
}

@Module({ controllers: [DemoController, StandInsController] })
export class DemoModule {}
