import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Param, Post, Query, Req, type StreamableFile, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import Joi from 'joi';
import {
  adoptRequest,
  editRequest,
  objectOf,
  type AdoptRequest,
  type AdoptView,
  type EditApplied,
  type EditPreview,
  type EditRequest,
  type HousekeepingView,
  type JobView,
  type MissedView,
} from '@rootmap/core/contract';
import { FolderService } from '@rootmap/engine/workbench';
import { asJson } from '../http/as-json.js';
import { whoOf } from '../http/guard.js';
import { gone } from '../http/gone.js';
import { JoiPipe } from '../http/joi-pipe.js';

interface PlanQuery {
  readonly quick: boolean;
}
const planQuery = objectOf<PlanQuery>({ quick: Joi.boolean().truthy('1').falsy('0').default(false) });

@Controller('api/projects/:key')
class FoldersController {
  constructor(@Inject(FolderService) private readonly folders: FolderService) {}

  @Get('folders')
  async view(@Param('key') key: string, @Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    return asJson(await this.folders.view(key, gone(response)));
  }

  @Get('links/:name/folders')
  async linked(
    @Param('key') key: string,
    @Param('name') name: string,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return asJson(await this.folders.linked(key, name, gone(response)));
  }

  /** Shows what an edit would do. `quick=1` leaves out the search for files that only mention what moves. */
  @Post('edits/plan')
  @HttpCode(200)
  plan(
    @Param('key') key: string,
    @Query(new JoiPipe(planQuery)) { quick }: PlanQuery,
    @Body(new JoiPipe(editRequest)) body: EditRequest,
  ): Promise<EditPreview> {
    return this.folders.preview(key, body, quick);
  }

  @Post('edits')
  @HttpCode(200)
  apply(@Param('key') key: string, @Body(new JoiPipe(editRequest)) body: EditRequest, @Req() request: Request): Promise<EditApplied> {
    return this.folders.apply(key, body, whoOf(request));
  }

  /** Where each thing of a grown folder would go in a plan. */
  @Post('adoption')
  @HttpCode(200)
  adoption(@Param('key') key: string, @Body(new JoiPipe(adoptRequest)) body: AdoptRequest): Promise<AdoptView> {
    return this.folders.adoption(key, body);
  }

  @Get('housekeeping')
  housekeeping(@Param('key') key: string, @Res({ passthrough: true }) response: Response): Promise<HousekeepingView> {
    return this.folders.housekeeping(key, gone(response));
  }

  @Post('duplicates')
  @HttpCode(202)
  duplicates(@Param('key') key: string): Promise<JobView> {
    return this.folders.startDuplicates(key);
  }

  /** What moved while this project was away; the edit `follow` makes its references follow. */
  @Get('missed')
  missed(@Param('key') key: string): Promise<MissedView> {
    return this.folders.missedMoves(key);
  }

  /** Removes for good what was deleted. */
  @Delete('trash')
  @HttpCode(200)
  emptyTrash(@Param('key') key: string): Promise<{ bytes: number }> {
    return this.folders.emptyTrash(key);
  }

  /** What is among the originals now counts as original from here on. */
  @Post('originals/accept')
  @HttpCode(204)
  accept(@Param('key') key: string): Promise<void> {
    return this.folders.acceptOriginals(key);
  }
}

@Module({ controllers: [FoldersController] })
export class FoldersModule {}
