import { likelyPassages, parseProjectNotes, type Note, type ProjectNote } from '@rootmap/core';
import type { NotesView, NoteView, PassageRequest } from '@rootmap/core/contract';
import { dirname } from '../disk/native-path.js';
import { planPassage } from '../folders/plan-passages.js';
import { noteInArchive } from '../notes/note-in-archive.js';
import { noteOf, notesBeside } from '../notes/notes-beside.js';
import { readNote } from '../notes/read-note.js';
import { readProjectNotes } from '../project/read-project-notes.js';
import { dataAt, findDataset } from '../project/find-dataset.js';
import { datasetsOf, idOf } from '../quality/quality-rows.js';
import { indexOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

const viewOf = (note: Note): NoteView => ({ note, likely: likelyPassages(note) });

/** Notes that came with data: which there are, what they say, and what of it holds as stated. */
export const NOTE_TASKS = {
  'project-notes': (input: TaskBase): readonly ProjectNote[] => parseProjectNotes(readProjectNotes(input.root)?.toString('utf8') ?? ''),
  notes: async ({ dataset, ...input }: TaskBase & { dataset: string }, { dataFolder }: TaskContext): Promise<NotesView> => {
    const scope = scopeOf(input, true);
    const found = findDataset(scope, dataset);
    const folder = dirname(dataAt(found).path);
    const beside = (await datasetsOf(scope, await indexOf(dataFolder))).filter((d) => dirname(dataAt(d).path) === folder);
    return { notes: notesBeside(found), siblings: beside.map(idOf).filter((id) => id !== dataset) };
  },
  note: ({ dataset, note, ...input }: TaskBase & { dataset: string; note: string }) =>
    viewOf(readNote(noteOf(findDataset(scopeOf(input, true), dataset), note))),
  document: ({ path }: TaskBase & { path: string }) => viewOf(readNote(path)),
  'packed-note': async ({ file, path }: TaskBase & { file: string; path: string }) => viewOf(await noteInArchive(file, path)),
  'plan-passage': ({ datasets, passage, isTaken, ...input }: TaskBase & PassageRequest) => {
    const scope = scopeOf(input, true);
    const found = datasets.map((id) => findDataset(scope, id));
    return planPassage(scope, found, { passage, isTaken }, input.who);
  },
} satisfies TaskTable;
