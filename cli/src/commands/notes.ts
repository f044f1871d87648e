import { noteText, PASSAGE_WORD } from '@rootmap/core';
import { dirname, notesIn } from '@rootmap/engine';
import type { Command } from '../command.js';
import { heads, scopeOf } from '../scope.js';
import { many } from '../text.js';

/** What notes beside data say of units, CRS, scale, date, limits of use and licence, also before an archive is unpacked. */
export const notes: Command = {
  usage: 'notes FILE|FOLDER|ARCHIVE [--text]',
  summary: 'What notes tell of the data, found by their words; --text gives all that they say. Nothing is unpacked.',
  examples: ['notes originals/survey/readme.pdf', 'notes ~/downloads/survey.zip --text'],
  flags: { text: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const path = call.paths[0]!;
    const found = await notesIn(path);
    const isWhole = call.flags['text'] === true;
    const failed = found.filter((f) => f.problem !== null);
    return {
      json: {
        ...heads(scopeOf(call, dirname(path))),
        notes: found.map(({ path: at, note, likely, problem }) => ({
          path: at,
          kind: note?.kind ?? null,
          isCut: note?.isCut ?? false,
          likely,
          problem,
          ...(isWhole && note ? { text: noteText(note) } : {}),
        })),
      },
      text: [
        ...found.flatMap((f) => [
          ...(f.path === '' ? [] : [`${f.path}:`]),
          ...(f.problem === null ? [] : [`  ${f.problem}`]),
          ...f.likely.map((p) => `  ${PASSAGE_WORD[p.about]}: ${p.words}`),
          ...(isWhole && f.note ? noteText(f.note).split('\n') : []),
        ]),
        `${many(found.length, 'note')}${failed.length > 0 ? `, ${failed.length} of which cannot be read` : ''}; what they tell is found by their words, a guess`,
      ],
      status: failed.length > 0 ? 1 : 0,
    };
  },
};
