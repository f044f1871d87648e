import { Controller, Get, HttpCode, Inject, Module, Param, Post, Req } from '@nestjs/common';
import type { Request } from 'express';
import type { ChangeView } from '@rootmap/core/contract';
import { ChangeService } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';

@Controller('api/journal')
class JournalController {
  constructor(@Inject(ChangeService) private readonly changes: ChangeService) {}

  /** Newest first. */
  @Get()
  list(): Promise<ChangeView[]> {
    return this.changes.list(null);
  }

  @Post(':id/undo')
  @HttpCode(200)
  undo(@Param('id') id: string, @Req() request: Request) {
    return this.changes.undo(id, whoOf(request));
  }
}

@Module({ controllers: [JournalController] })
export class JournalModule {}
