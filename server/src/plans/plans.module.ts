import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Param, Post, Query, Req } from '@nestjs/common';
import Joi from 'joi';
import type { Request } from 'express';
import {
  folderPlanBody,
  newProjectBody,
  type CrsView,
  type FolderPlanBody,
  type FolderPlanView,
  type NewProjectBody,
  type NewProjectPreview,
  type StarterLink,
  objectOf,
} from '@rootmap/core/contract';
import { crsAt, searchCrs, FolderService, PlanRepository } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

interface CrsQuery {
  readonly q?: string;
  readonly longitude?: number;
  readonly latitude?: number;
}
const crsQuery = objectOf<CrsQuery>({
  q: Joi.string().allow('').max(200),
  longitude: Joi.number().min(-180).max(180),
  latitude: Joi.number().min(-90).max(90),
})
  .and('longitude', 'latitude')
  .or('q', 'longitude');

/** What a new project is made from: folder plans and coordinate reference systems. */
@Controller('api')
class PlansController {
  constructor(
    @Inject(FolderService) private readonly folders: FolderService,
    @Inject(PlanRepository) private readonly plans: PlanRepository,
  ) {}

  @Get('plans')
  list(): Promise<FolderPlanView[]> {
    return this.plans.list();
  }

  /** Keeps a plan of one's own; one of the same title is replaced. */
  @Post('plans')
  save(@Body(new JoiPipe(folderPlanBody)) body: FolderPlanBody): Promise<FolderPlanView[]> {
    return this.plans.save(body);
  }

  @Delete('plans/:id')
  @HttpCode(200)
  remove(@Param('id') id: string): Promise<FolderPlanView[]> {
    return this.plans.remove(id);
  }

  /** By words of name, area or code, or those whose area of use holds a point. */
  @Get('crs')
  crs(@Query(new JoiPipe(crsQuery)) query: CrsQuery): CrsView[] {
    return query.longitude === undefined ? searchCrs(query.q ?? '') : crsAt(query.longitude, query.latitude!);
  }

  /** Folders that projects link, offered to a new one. */
  @Get('starter-links')
  starterLinks(): Promise<StarterLink[]> {
    return this.folders.starterLinks();
  }

  @Post('new-project/plan')
  @HttpCode(200)
  preview(@Body(new JoiPipe(newProjectBody)) body: NewProjectBody): Promise<NewProjectPreview> {
    return this.folders.previewNew(body);
  }

  @Post('new-project')
  create(@Body(new JoiPipe(newProjectBody)) body: NewProjectBody, @Req() request: Request): Promise<{ key: string }> {
    return this.folders.createNew(body, whoOf(request));
  }
}

@Module({ controllers: [PlansController] })
export class PlansModule {}
