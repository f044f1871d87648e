import { ProblemError } from '@rootmap/core';
import { planUndoing, undoChange, whyKept, type ChangeRecord } from '@rootmap/engine';
import { textFlag, type Command } from '../command.js';
import { withJournal } from '../journal.js';
import { who } from '../scope.js';
import { columns, many } from '../text.js';

const MOST_LISTED = 50;

const shown = ({ id, title, kind, root, who: by, createdMs, state, steps, note }: ChangeRecord) => ({
  id,
  title,
  kind,
  root,
  who: by,
  at: new Date(createdMs).toISOString(),
  state,
  files: steps.length,
  note,
});

/** What was changed on disk, here and in the app, the latest first. */
export const journal: Command = {
  usage: 'journal [FOLDER] [--kind KIND] [--find WORDS] [--most N]',
  summary: 'Lists changes on disk, the latest first, with the ids that undo takes.',
  examples: ['journal', 'journal . --kind move --most 200'],
  flags: { kind: { type: 'string' }, find: { type: 'string' }, most: { type: 'string' } },
  paths: [0, 1],
  run: async (call) => {
    const limit = call.flags['most'] === undefined ? MOST_LISTED : Number(call.flags['most']);
    if (!(Number.isInteger(limit) && limit > 0)) throw new ProblemError({ code: 'wrong-use', message: '--most takes a number from 1.' });
    const changes = await withJournal(({ journal: kept }) =>
      kept.list({ root: call.paths[0], kind: textFlag(call, 'kind') ?? undefined, text: textFlag(call, 'find') ?? undefined, limit }),
    );
    const list = changes.map(shown);
    return {
      json: { root: call.paths[0] ?? null, projectFile: null, changes: list },
      text: [
        ...columns(list.map((c) => [c.id, c.at.slice(0, 16).replace('T', ' '), c.state, c.who, c.title, many(c.files, 'file')])),
        `${many(list.length, 'change')}${list.length === limit ? `, the latest; --most asks for more` : ''}`,
      ],
      status: 0,
    };
  },
};

/** Takes a change back, whole or not at all; what stays as it is, and why, is told before. */
export const undo: Command = {
  usage: 'undo ID [--along] [--apply]',
  summary: 'Takes a change back, or does one again that was undone. --along: with later changes that stand on it.',
  examples: ['undo 0b5c', 'undo 0b5c --along --apply'],
  flags: { along: { type: 'boolean' }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const id = call.words[0]!;
    const apply = call.flags['apply'] === true;
    const along = call.flags['along'] === true;
    const { plan, undone } = await withJournal(async (options) => {
      const before = await planUndoing(id, options.journal);
      if (before.parts.length > 1 && !along && apply)
        throw new ProblemError({
          code: 'cannot-undo',
          path: before.change.title,
          why: `${many(before.parts.length - 1, 'later change')} ${before.parts.length === 2 ? 'stands' : 'stand'} on it: --along undoes them, too`,
        });
      return { plan: before, undone: apply ? await undoChange(id, who(), options, { along, shown: before.digest }) : null };
    });
    const back = plan.parts.flatMap((p) => p.back);
    const kept = plan.parts.flatMap((p) => p.kept).map(({ path, why }) => ({ path, why: whyKept(why) }));
    return {
      json: {
        root: plan.root,
        projectFile: null,
        title: plan.title,
        back,
        kept,
        along: plan.parts.slice(0, -1).map((p) => ({ id: p.change.id, title: p.change.title })),
        applied: undone?.change?.id ?? null,
      },
      text: [
        ...plan.parts.slice(0, -1).map((p) => `stands on it: ${p.change.title} (${p.change.id})`),
        ...columns(back.map((b) => [b.what, b.path])),
        ...kept.map((k) => `stays: ${k.path} (${k.why})`),
        undone === null
          ? `${plan.title}: ${many(back.length, 'file')} would come back; --apply does it`
          : undone.change === null
            ? `${plan.title}: nothing could be taken back`
            : `${plan.title}: ${many(back.length, 'file')} came back (${undone.change.id})`,
      ],
      status: kept.length > 0 ? 1 : 0,
    };
  },
};
