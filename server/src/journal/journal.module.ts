import { Controller, Get, HttpCode, Inject, Module, Param, Post, Req } from '@nestjs/common';
import type { Request } from 'express';
import type { ChangeView } from '@rootmap/core/contract';
import { Workbench } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';

@Controller('api/journal')
export class JournalController {
  constructor(@Inject(Workbench) private readonly workbench: Workbench) {}

  /** Newest first. */
  @Get()
  list(): Promise<ChangeView[]> {
    return this.workbench.changes(null);
  }

  @Post(':id/undo')
  @HttpCode(200)
  undo(@Param('id') id: string, @Req() request: Request) {
    return this.workbench.undo(id, whoOf(request));
  }
}

@Module({ controllers: [JournalController] })
export class JournalModule {}
