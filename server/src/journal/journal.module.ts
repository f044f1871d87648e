import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Query, Req } from '@nestjs/common';
import type { Request } from 'express';
import {
  journalQuery,
  undoRequest,
  type ChangedFilesView,
  type ChangeView,
  type JournalQuery,
  type TrashedView,
  type UndoneView,
  type UndoPreview,
  type UndoRequest,
} from '@rootmap/core/contract';
import { ChangeService } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api/journal')
class JournalController {
  constructor(@Inject(ChangeService) private readonly changes: ChangeService) {}

  /** Newest first. */
  @Get()
  list(@Query(new JoiPipe(journalQuery)) query: JournalQuery): Promise<ChangeView[]> {
    return this.changes.list(query);
  }

  /** What a change did to each file. */
  @Get(':id/files')
  files(@Param('id') id: string): Promise<ChangedFilesView> {
    return this.changes.files(id);
  }

  /** What its undo would do now. Reads only. */
  @Get(':id/undo')
  preview(@Param('id') id: string): Promise<UndoPreview> {
    return this.changes.previewUndo(id);
  }

  @Post(':id/undo')
  @HttpCode(200)
  undo(@Param('id') id: string, @Body(new JoiPipe(undoRequest)) body: UndoRequest, @Req() request: Request): Promise<UndoneView> {
    return this.changes.undo(id, whoOf(request), body);
  }
}

@Controller('api/projects/:key/trash')
class TrashController {
  constructor(@Inject(ChangeService) private readonly changes: ChangeService) {}

  /** The latest first. */
  @Get()
  list(@Param('key') key: string): Promise<TrashedView[]> {
    return this.changes.trash(key);
  }
}

@Module({ controllers: [JournalController, TrashController] })
export class JournalModule {}
