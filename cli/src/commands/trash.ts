import { ProblemError } from '@rootmap/core';
import { emptyTrash, listTrash, pathFrom, rooted, type ChangeRecord } from '@rootmap/engine';
import type { Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf } from '../scope.js';
import { columns, many } from '../text.js';

/** What lies in the trash of a project, by the change that put it there; undo brings it back, emptying does not. */
export const trash: Command = {
  usage: 'trash FOLDER [--empty --apply]',
  summary: 'Lists the trash of a project with the ids that undo takes, or removes for good what is in it.',
  examples: ['trash .', 'trash . --empty --apply'],
  flags: { empty: { type: 'boolean' }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = rooted(scopeOf(call));
    const [empties, apply] = [call.flags['empty'] === true, call.flags['apply'] === true];
    if (apply && !empties) throw new ProblemError({ code: 'wrong-use', message: '--apply goes with --empty: the list changes nothing.' });
    const all = listTrash(scope.root);
    const bytes = all.reduce((sum, t) => sum + t.bytes, 0);
    const known = all.length === 0 ? [] : await withJournal(({ journal }) => journal.list({ root: scope.root, limit: 10_000 }));
    const titles = new Map(known.map((c: ChangeRecord) => [c.id, c.title]));
    if (apply) await emptyTrash(scope.root);
    return {
      json: { ...heads(scope), trash: all.map((t) => ({ ...t, title: titles.get(t.change) ?? null })), bytes, emptied: apply },
      text: [
        ...columns(
          all.flatMap((t) =>
            t.paths.map((p) => [t.change, titles.get(t.change) ?? 'a change that is not in this journal', pathFrom(scope.root, p)]),
          ),
        ),
        apply
          ? `${bytes} bytes removed for good`
          : `${many(all.length, 'change')}, ${bytes} bytes${empties ? '; --apply removes them for good' : ''}`,
      ],
      status: 0,
    };
  },
};
