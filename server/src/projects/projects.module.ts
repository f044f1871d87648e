import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Param, Post, Req, type StreamableFile, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { pathRequest, type AppliedView, type PathRequest, type ProjectSummary } from '@rootmap/core/contract';
import { MendService, ProjectService } from '@rootmap/engine/workbench';
import { asJson } from '../http/as-json.js';
import { whoOf } from '../http/guard.js';
import { gone } from '../http/gone.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api/projects')
class ProjectsController {
  constructor(
    @Inject(MendService) private readonly mending: MendService,
    @Inject(ProjectService) private readonly projects: ProjectService,
  ) {}

  @Get()
  list(): Promise<ProjectSummary[]> {
    return this.projects.list();
  }

  @Post()
  async open(@Body(new JoiPipe(pathRequest)) body: PathRequest): Promise<{ key: string }> {
    return { key: await this.projects.open(body) };
  }

  /** Takes it off the list; nothing on disk is touched. */
  @Delete(':key')
  @HttpCode(204)
  close(@Param('key') key: string): Promise<void> {
    return this.projects.close(key);
  }

  /** Looks for one whose folder is gone, by its id, in its place. Found in one folder, it is followed there. */
  @Post(':key/find')
  @HttpCode(200)
  find(@Param('key') key: string): Promise<{ found: string[] }> {
    return this.projects.find(key);
  }

  @Get(':key')
  async view(@Param('key') key: string, @Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    return asJson(await this.projects.view(key, false, gone(response)));
  }

  @Post(':key/rescan')
  @HttpCode(200)
  async rescan(@Param('key') key: string, @Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    return asJson(await this.projects.view(key, true, gone(response)));
  }

  @Post(':key/remember')
  @HttpCode(200)
  remember(@Param('key') key: string, @Req() request: Request): Promise<AppliedView> {
    return this.mending.remember(key, whoOf(request));
  }
}

@Module({ controllers: [ProjectsController] })
export class ProjectsModule {}
