import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Param, Post, Query } from '@nestjs/common';
import { existsSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { byCodePoint, formatOf, isMapFile, isProjectFile, ProblemError } from '@rootmap/core';
import { pathRequest, placeRequest, type FolderView, type PathRequest, type PlaceRequest, type PlaceView } from '@rootmap/core/contract';
import { Workbench } from '@rootmap/engine/workbench';
import { CONFIG } from '../workbench/workbench.module.js';
import { isLoopback, type Config } from '../config.js';
import { JoiPipe } from '../http/joi-pipe.js';

const MOST_SHOWN = 5000;

@Controller('api')
export class PlacesController {
  constructor(
    @Inject(Workbench) private readonly workbench: Workbench,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  @Get('places')
  places(): PlaceView[] {
    return this.workbench.places.view();
  }

  @Post('places')
  async add(@Body(new JoiPipe(placeRequest)) body: PlaceRequest): Promise<PlaceView[]> {
    this.checkEditable();
    await this.workbench.places.add(body);
    await this.workbench.placesChanged();
    return this.places();
  }

  @Delete('places/:name')
  @HttpCode(200)
  async remove(@Param('name') name: string): Promise<PlaceView[]> {
    this.checkEditable();
    await this.workbench.places.remove(name);
    await this.workbench.placesChanged();
    return this.places();
  }

  private checkEditable(): void {
    if (!isLoopback(this.config.host)) throw new ProblemError({ code: 'wrong-use', message: 'Places of a server that others reach are set by ROOTMAP_PLACES. Change them there and start again.' });
  }

  /** What a folder chooser shows: folders, and the files that could be meant. */
  @Get('folder')
  folder(@Query(new JoiPipe(pathRequest)) query: PathRequest): FolderView {
    const path = this.workbench.path(query);
    const entries = readdirSync(path, { withFileTypes: true }).filter((e) => !e.name.startsWith('.')).slice(0, MOST_SHOWN);
    const names = entries.map((e) => e.name).sort(byCodePoint);
    const isFolder = (name: string): boolean => statSync(join(path, name), { throwIfNoEntry: false })?.isDirectory() === true;
    const folders = names.filter(isFolder);
    return {
      place: query.place,
      path: query.path,
      folders: folders.map((name) => ({ name, isProject: hasProject(join(path, name)) })),
      files: names
        .filter((n) => !folders.includes(n) && (formatOf(n) !== null || isMapFile(n)))
        .map((name) => ({ name, bytes: statSync(join(path, name), { throwIfNoEntry: false })?.size ?? 0, format: isMapFile(name) ? 'map' : formatOf(name) })),
      isProject: names.some(isProjectFile),
      isEmpty: readdirSync(path).length === 0,
    };
  }
}

function hasProject(folder: string): boolean {
  try {
    return existsSync(folder) && readdirSync(folder).some(isProjectFile);
  } catch {
    return false; // a folder that may not be opened is shown all the same; opening it says why
  }
}

@Module({ controllers: [PlacesController] })
export class PlacesModule {}
