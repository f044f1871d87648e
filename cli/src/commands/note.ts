import { parseProjectNotes, ProblemError } from '@rootmap/core';
import { dataFolder, isBelow, knownRoots, pathFrom, planEdit, readProjectNotes, resolve, rooted, runChange } from '@rootmap/engine';
import { textFlag, type Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { many } from '../text.js';

/** Dated notes that people keep on their project: listed, or one more written. */
export const note: Command = {
  usage: 'note FOLDER [--write WORDS [--about PATH] [--apply]]',
  summary: 'Lists the notes on a project, the latest first, or writes one: dated, about a file of it where that is said.',
  examples: ['note .', "note . --write 'The office sends the lights of 2026 in May.' --about originals/lights.shp --apply"],
  flags: { write: { type: 'string' }, about: { type: 'string' }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = rooted(scopeOf(call));
    const [text, about, apply] = [textFlag(call, 'write'), textFlag(call, 'about'), call.flags['apply'] === true];
    if (text === null && (about !== null || apply))
      throw new ProblemError({ code: 'wrong-use', message: '--about and --apply go with --write WORDS.' });
    const path = about === null ? null : resolve(call.cwd, about);
    if (path !== null && !isBelow(scope.root, path))
      throw new ProblemError({ code: 'wrong-use', message: `${about!} is not in the project: a note is about something in it.` });
    if (text !== null) {
      const target = path === null ? null : { kind: 'path' as const, path: pathFrom(scope.root, path) };
      const edit = { kind: 'note' as const, text: text.trim(), about: target };
      if (edit.text === '') throw new ProblemError({ code: 'wrong-use', message: 'There are no words to write: --write WORDS.' });
      const options = {
        roots: knownRoots(dataFolder()),
        who: who(),
        resolve: (at: { readonly path: string }) => at.path,
        missed: [],
        isQuick: false,
      };
      const { change } = await planEdit(scope, edit, options);
      if (apply && change) await withJournal((run) => runChange(change, run));
    }
    const notes = parseProjectNotes(readProjectNotes(scope.root)?.toString('utf8') ?? '').reverse();
    return {
      json: { ...heads(scope), notes, applied: apply },
      text: [
        ...notes.flatMap((n) => [
          `${n.at}${n.who === '' ? '' : `, ${n.who}`}${n.about === null ? '' : `, about ${n.about.kind === 'path' ? n.about.path : n.about.title}`}`,
          ...n.text.split('\n').map((l) => `    ${l}`),
        ]),
        `${many(notes.length, 'note')}${text !== null && !apply ? '; --apply writes one more' : ''}`,
      ],
      status: 0,
    };
  },
};
