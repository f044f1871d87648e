import { statSync, type Stats } from 'node:fs';
import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Param, Post, Put, Query } from '@nestjs/common';
import { join } from '@rootmap/engine';
import { byCodePoint, formatOf, isMapFile, isProjectFile, ProblemError } from '@rootmap/core';
import {
  driveNameRequest,
  hostRequest,
  pathRequest,
  placeRequest,
  type DriveNameRequest,
  type DriveView,
  type FolderView,
  type HostRequest,
  type PathRequest,
  type PlaceHosts,
  type PlaceRequest,
  type PlaceView,
} from '@rootmap/core/contract';
import { readdirSync, PlaceService, showInFiles } from '@rootmap/engine/workbench';
import { CONFIG } from '../workbench/workbench.module.js';
import { checkHostsEditable, isLoopback, type Config } from '../config.js';
import { JoiPipe } from '../http/joi-pipe.js';

const MOST_SHOWN = 5000;

@Controller('api')
class PlacesController {
  constructor(
    @Inject(PlaceService) private readonly places: PlaceService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  @Get('places')
  list(): PlaceView[] {
    return this.places.view();
  }

  /** Drives and shares of the machine, from which a place can be made. */
  @Get('drives')
  drives(): Promise<DriveView[]> {
    this.checkEditable();
    return this.places.drives();
  }

  @Post('places')
  async add(@Body(new JoiPipe(placeRequest)) body: PlaceRequest): Promise<PlaceView[]> {
    this.checkEditable();
    await this.places.add(body);
    return this.places.view();
  }

  /** One more name by which files call the place. */
  @Post('places/:name/drive-names')
  @HttpCode(200)
  async call(@Param('name') name: string, @Body(new JoiPipe(driveNameRequest)) body: DriveNameRequest): Promise<{ isKept: boolean }> {
    this.checkEditable();
    return { isKept: await this.places.call(name, body.driveName) };
  }

  @Delete('places/:name')
  @HttpCode(200)
  async remove(@Param('name') name: string): Promise<PlaceView[]> {
    this.checkEditable();
    await this.places.remove(name);
    return this.places.view();
  }

  /** A host of one's own network may be asked for projects in a place, or not any more. */
  @Put('places/:name/hosts')
  @HttpCode(200)
  async hosts(@Param('name') name: string, @Body(new JoiPipe(hostRequest)) body: HostRequest): Promise<PlaceView[]> {
    checkHostsEditable(this.config);
    await this.places.allowHost(name, body.host, body.allowed);
    return this.places.view();
  }

  /** The same for projects in every place. */
  @Put('hosts')
  @HttpCode(200)
  async hostsOfAll(@Body(new JoiPipe(hostRequest)) body: HostRequest): Promise<PlaceHosts> {
    checkHostsEditable(this.config);
    await this.places.allowHost(null, body.host, body.allowed);
    return this.places.hostsOfAll();
  }

  /** Opens the file manager of this machine at a file or a folder of a place. */
  @Post('show')
  @HttpCode(204)
  async show(@Body(new JoiPipe(pathRequest)) body: PathRequest): Promise<void> {
    if (!isLoopback(this.config.host))
      throw new ProblemError({
        code: 'wrong-use',
        message: 'The server runs on a machine that others use, too: it opens nothing there. Copy the path.',
      });
    const path = this.places.path(body);
    await showInFiles(path, statSync(path).isDirectory(), this.config.files);
  }

  private checkEditable(): void {
    if (!isLoopback(this.config.host))
      throw new ProblemError({
        code: 'wrong-use',
        message: 'Places of a server that others reach are set by ROOTMAP_PLACES. Change them there and start again.',
      });
  }

  /** What a folder chooser shows: folders, and the files that could be meant. */
  @Get('folder')
  folder(@Query(new JoiPipe(pathRequest)) query: PathRequest): FolderView {
    const path = this.places.path(query);
    const entries = readdirSync(path, { withFileTypes: true });
    const shown = entries.filter((e) => !e.name.startsWith('.')).slice(0, MOST_SHOWN);
    const names = shown.map((e) => e.name).sort(byCodePoint);
    const stats = new Map(names.map((name) => [name, statOf(join(path, name))]));
    const folders = names.filter((n) => stats.get(n)?.isDirectory());
    const files = names.filter((n) => stats.get(n)?.isFile() && (formatOf(n) !== null || isMapFile(n)));
    return {
      place: query.place,
      path: query.path,
      folders: folders.map((name) => ({ name, isProject: hasProject(join(path, name)) })),
      files: files.map((name) => ({ name, bytes: stats.get(name)!.size, format: isMapFile(name) ? 'map' : formatOf(name) })),
      isProject: names.some(isProjectFile),
      isEmpty: entries.length === 0,
    };
  }
}

/** Null for links that lead nowhere, or to each other: there is nothing to choose. */
function statOf(path: string): Stats | null {
  try {
    return statSync(path);
  } catch {
    return null;
  }
}

function hasProject(folder: string): boolean {
  try {
    return readdirSync(folder).some(isProjectFile);
  } catch {
    return false; // a folder that may not be opened is shown all the same; opening it says why
  }
}

@Module({ controllers: [PlacesController] })
export class PlacesModule {}
