import Joi from 'joi';
import type { Note, NoteKind } from '../note/note.js';
import type { Passage, StatedPassage } from '../origin/passage.js';
import { objectOf } from './shapes.js';
import { passageBody } from './sources.js';

/** A file beside a dataset that people read. */
export interface NoteFile {
  /** From the folder of the dataset, with `/`; `../` leads up. */
  readonly path: string;
  readonly kind: NoteKind;
  readonly bytes: number;
}

export interface NotesView {
  readonly notes: readonly NoteFile[];
  /** Ids of the other datasets in the same folder, for which a note holds, too. */
  readonly siblings: readonly string[];
}

export interface NoteView {
  readonly note: Note;
  /** Sentences that look as if they told something of the data: a guess. */
  readonly likely: readonly Passage[];
}

const dataset = Joi.string().max(8192);
const path = Joi.string().min(1).max(4096);
export const notesQuery = objectOf<{ readonly dataset: string }>({ dataset: dataset.required() });
export interface NoteQuery {
  readonly dataset: string;
  readonly note: string;
}
export const noteQuery = objectOf<NoteQuery>({ dataset: dataset.required(), note: path.required() });
export const packedNoteQuery = objectOf<{ readonly path: string }>({ path: path.required() });

export interface PassageRequest {
  readonly datasets: readonly string[];
  readonly passage: StatedPassage;
  /** False: it is taken back. */
  readonly isTaken: boolean;
}
export const passageRequest = objectOf<PassageRequest>({
  datasets: Joi.array().items(dataset).min(1).max(10_000).required(),
  passage: passageBody.required(),
  isTaken: Joi.boolean().required(),
});
