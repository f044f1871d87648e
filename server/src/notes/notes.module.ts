import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import type { ProjectNote } from '@rootmap/core';
import {
  noteQuery,
  notesQuery,
  packedNoteQuery,
  passageRequest,
  pathRequest,
  type PathRequest,
  type AppliedView,
  type NoteQuery,
  type NotesView,
  type NoteView,
  type PassageRequest,
} from '@rootmap/core/contract';
import { NoteService } from '@rootmap/engine/workbench';
import { gone } from '../http/gone.js';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api/projects/:key')
class NotesController {
  constructor(@Inject(NoteService) private readonly notes: NoteService) {}

  /** What people keep on their project, the oldest first. */
  @Get('project-notes')
  ofProject(@Param('key') key: string): Promise<readonly ProjectNote[]> {
    return this.notes.ofProject(key);
  }

  /** Which notes lie beside a dataset. */
  @Get('notes')
  list(@Param('key') key: string, @Query(new JoiPipe(notesQuery)) { dataset }: { dataset: string }): Promise<NotesView> {
    return this.notes.list(key, dataset);
  }

  /** What one of them says. */
  @Get('notes/text')
  read(
    @Param('key') key: string,
    @Query(new JoiPipe(noteQuery)) query: NoteQuery,
    @Res({ passthrough: true }) response: Response,
  ): Promise<NoteView> {
    return this.notes.read(key, query, gone(response));
  }

  /** What a document of a place says. */
  @Get('documents')
  document(
    @Param('key') key: string,
    @Query(new JoiPipe(pathRequest)) at: PathRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<NoteView> {
    return this.notes.readDocument(key, at, gone(response));
  }

  /** What a note says that is not unpacked yet. */
  @Get('arrivals/:id/note')
  readPacked(
    @Param('key') key: string,
    @Param('id') id: string,
    @Query(new JoiPipe(packedNoteQuery)) { path }: { path: string },
    @Res({ passthrough: true }) response: Response,
  ): Promise<NoteView> {
    return this.notes.readPacked(key, id, path, gone(response));
  }

  /** Takes a passage over as what the publisher states, or takes it back. */
  @Post('passages')
  @HttpCode(200)
  take(@Param('key') key: string, @Body(new JoiPipe(passageRequest)) body: PassageRequest, @Req() request: Request): Promise<AppliedView> {
    return this.notes.take(key, body, whoOf(request));
  }
}

@Module({ controllers: [NotesController] })
export class NotesModule {}
