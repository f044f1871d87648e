import { ProblemError } from '@rootmap/core';
import type { EditRequest } from '@rootmap/core/contract';
import { dataFolder, knownRoots, planEdit, presentLinks, resolve, rooted, runChange, type RootedScope } from '@rootmap/engine';
import { textFlag, type Answer, type Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

function list(scope: RootedScope): Answer {
  const present = new Map(presentLinks(scope).map((l) => [l.name, l.folder]));
  const links = (scope.project?.links ?? []).map((l) => ({
    name: l.name,
    folder: present.get(l.name) ?? null,
    address: l.address ?? l.path,
    note: l.note,
  }));
  const away = links.filter((l) => l.folder === null).length;
  return {
    json: { ...heads(scope), links },
    text: [
      ...columns(links.map((l) => [l.name, l.folder ?? `not here: ${l.address ?? ''}`, l.note])),
      `${many(links.length, 'linked folder')}${away > 0 ? `, ${away} of them not here` : ''}`,
    ],
    status: away > 0 ? 1 : 0,
  };
}

/** Which folders outside the root a project draws data from; one more, or one less. */
export const links: Command = {
  usage: 'links FOLDER | links FOLDER --add FOLDER --name NAME [--note WORDS] [--apply] | links FOLDER --drop NAME [--apply]',
  summary: 'Lists linked folders, links one by name, or drops a link: layers that go through it keep the whole address of their data.',
  examples: ['links .', 'links . --add /srv/base --name base --apply', 'links . --drop base --apply'],
  flags: {
    add: { type: 'string' },
    name: { type: 'string' },
    note: { type: 'string' },
    drop: { type: 'string' },
    apply: { type: 'boolean' },
  },
  paths: [1, 1],
  run: async (call) => {
    const scope = rooted(scopeOf(call));
    const [add, drop, name] = [textFlag(call, 'add'), textFlag(call, 'drop'), textFlag(call, 'name')];
    if (add === null && drop === null) return list(scope);
    if (add !== null && (drop !== null || name === null))
      throw new ProblemError({ code: 'wrong-use', message: '--add takes a FOLDER and --name NAME; --drop a NAME. One of them at a time.' });
    const edit: EditRequest =
      add !== null
        ? {
            kind: 'link',
            name: name!,
            folder: { place: '', path: resolve(call.cwd, add) },
            note: textFlag(call, 'note') ?? '',
            replaces: [],
          }
        : { kind: 'unlink', name: drop! };
    const plan = await planEdit(scope, edit, {
      roots: knownRoots(dataFolder()),
      who: who(),
      resolve: (at) => at.path, // named on the command line, and made absolute there
      missed: [],
      isQuick: false,
    });
    const apply = call.flags['apply'] === true && plan.change !== null;
    if (apply) await withJournal((options) => runChange(plan.change!, options));
    const { title, references, loosened } = plan.preview;
    return {
      json: { ...heads(scope), title, references, loosened, applied: apply },
      text: [
        ...columns(references.map((r) => [r.title, r.before, '→', r.after])),
        ...loosened.map((l) => `keeps its whole address: ${l.title} (${l.path})`),
        plan.change === null ? 'there is nothing to change' : `${title}${apply ? ': done' : '; --apply does it'}`,
      ],
      status: 0,
    };
  },
};
