import { existsSync, statSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { basename, join, resolve, dataFolder, findMentions, knownRoots, planMoves, runChange } from '@rootmap/engine';
import { textFlag, type Call, type Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

function pathFlag(call: Call, name: 'from' | 'to'): string {
  const value = textFlag(call, name);
  if (value === null || value === '') throw new ProblemError({ code: 'wrong-use', message: `Say --${name} PATH.` });
  return value;
}

/** Both paths start where the first of them is: in the caller's folder, else in the folder that is named. */
function pathsOf(call: Call): { from: string; to: string } {
  const [from, to] = [pathFlag(call, 'from'), pathFlag(call, 'to')];
  const named = call.paths[0]!;
  const start = !existsSync(resolve(call.cwd, from)) && existsSync(resolve(named, from)) ? named : call.cwd;
  return { from: resolve(start, from), to: resolve(start, to) };
}

export const move: Command = {
  usage: 'move FOLDER --from PATH --to PATH [--originals] [--apply]',
  summary: 'Moves or renames a dataset, a map or a folder, with its companions and every reference to it.',
  examples: ['move . --from received/beds.shp --to originals/beds.shp', 'move . --from received --to originals/received --apply'],
  flags: { from: { type: 'string' }, to: { type: 'string' }, originals: { type: 'boolean' }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    const { from, to } = pathsOf(call);
    const target = existsSync(to) && statSync(to).isDirectory() && to !== from ? join(to, basename(from)) : to;
    const roots = [...(scope.root ? [scope.root] : []), ...knownRoots(dataFolder())];
    const evenOriginals = call.flags['originals'] === true;
    const plan = planMoves([{ from, to: target }], roots, scope.places, { who: who(), evenOriginals });
    const mentioned = (await findMentions(plan.entries, roots)).map((m) => m.path);
    const apply = call.flags['apply'] === true;
    if (apply) await withJournal((options) => runChange(plan.change, options));
    return {
      json: {
        ...heads(scope),
        files: plan.files,
        references: plan.references.map(({ map, layer, before, after }) => ({ map, layer, before, after })),
        mentioned,
        damaged: plan.damaged,
        applied: apply,
      },
      text: [
        ...columns(plan.files.map((f) => [f.from, '→', f.to])),
        ...columns(plan.references.map((r) => [r.title, r.before, '→', r.after])),
        ...mentioned.map((m) => `also mentioned in, not rewritten: ${m}`),
        `${many(plan.files.length, 'file')} and ${many(plan.references.length, 'reference')} ${apply ? 'moved' : 'to be moved; --apply does it'}`,
      ],
      status: plan.damaged.length ? 1 : 0,
    };
  },
};
