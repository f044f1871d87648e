import { planRemember, readMaps, runChange, totalsOf } from '@rootmap/engine';
import type { Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { many } from '../text.js';

export const remember: Command = {
  usage: 'remember FOLDER|MAP',
  summary: 'Stores in each map what its sound layers’ data is like, so that the data can be recognised elsewhere.',
  examples: ['remember .'],
  flags: {},
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    const plan = planRemember(scope, who(), (title) => call.progress(`reading ${title}`));
    if (plan.change) await withJournal((options) => runChange(plan.change!, options));
    const { sound, ...others } = totalsOf(readMaps(scope).maps);
    const bad = Object.values(others).reduce((a, b) => a + b, 0);
    return {
      json: { ...heads(scope), layers: plan.layers, damaged: plan.damaged },
      text: [
        `${many(plan.layers.length, 'layer')} remembered, ${many(plan.change?.steps.length ?? 0, 'map')} written; ${sound} sound, ${bad} not`,
      ],
      status: bad || plan.damaged.length ? 1 : 0,
    };
  },
};
