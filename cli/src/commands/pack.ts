import { ProblemError } from '@rootmap/core';
import { resolve, isRooted, pack as packBundle, planPack, suggestedBundle } from '@rootmap/engine';
import type { Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { many } from '../text.js';

export const pack: Command = {
  usage: 'pack FOLDER --out FILE.zip',
  summary: 'Makes a bundle (BagIt in a zip) of a project, reads it back, and says how each layer will be on arrival.',
  flags: { out: { type: 'string' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    if (!isRooted(scope))
      throw new ProblemError({ code: 'wrong-use', message: 'A bundle is made of a project folder. Name the folder, not a map.' });
    if (scope.named !== scope.root)
      throw new ProblemError({ code: 'wrong-use', message: `A bundle is made of a whole project. Name its root: ${scope.root}` });
    const out = typeof call.flags['out'] === 'string' ? resolve(call.cwd, call.flags['out']) : suggestedBundle(scope);
    const plan = planPack(scope, out);
    const result = await withJournal((options) =>
      packBundle(plan, out, who(), options, (p) => call.progress(`${Math.round((100 * p.done) / Math.max(1, p.of))} % ${p.item}`)),
    );
    const bad = result.layers.filter((l) => l.state !== 'sound');
    return {
      json: { ...heads(scope), ...result, findings: plan.findings },
      text: [
        `${result.file}: ${result.bytes} bytes, ${many(result.payload.files, 'file')}`,
        ...result.leftOut.map((l) => `left out: ${l.path} (${l.why})`),
        ...bad.map((l) => `${l.state} on arrival: ${l.title}`),
        ...result.carriers.map((c) => `${c.fits ? 'fits' : 'too large'}: ${c.name}`),
      ],
      status: bad.length || plan.findings.length || plan.damaged.length ? 1 : 0,
    };
  },
};
