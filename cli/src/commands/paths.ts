import { ProblemError } from '@rootmap/core';
import { planPaths, runChange } from '@rootmap/engine';
import type { Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

export const paths: Command = {
  usage: 'paths FOLDER|MAP --store relative|absolute [--apply]',
  summary: 'Stores references relative to their map, or absolutely. Where they lead does not change.',
  examples: ['paths . --store relative', 'paths . --store relative --apply'],
  flags: { store: { type: 'string' }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const form = call.flags['store'];
    if (form !== 'relative' && form !== 'absolute')
      throw new ProblemError({ code: 'wrong-use', message: 'Say --store relative or --store absolute.' });
    const scope = scopeOf(call);
    const plan = planPaths(scope, form, who());
    const apply = call.flags['apply'] === true;
    if (apply && plan.change) await withJournal((options) => runChange(plan.change!, options));
    const refused = plan.kept.filter((k) => k.why !== 'it is a service');
    return {
      json: { ...heads(scope), changes: plan.changes, kept: plan.kept, damaged: plan.damaged, applied: apply ? plan.changes.length : 0 },
      text: [
        ...columns(plan.changes.map((c) => [c.title, c.before, '→', c.after])),
        ...plan.kept.map((k) => `kept: ${k.title} (${k.why})`),
        `${many(plan.changes.length, 'reference')} ${apply ? 'rewritten' : 'to be rewritten; --apply does it'}`,
      ],
      status: refused.length || plan.damaged.length ? 1 : 0,
    };
  },
};
