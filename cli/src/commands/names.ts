import { DEFAULT_NAMING, ProblemError, RULE_SETS, type NamingRules } from '@rootmap/core';
import { isRooted, dataFolder, knownRoots, planRenames, runChange } from '@rootmap/engine';
import type { Call, Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

function ruleFlag(call: Call, own: NamingRules): NamingRules {
  const wanted = call.flags['rule'];
  if (wanted === undefined) return own;
  const rules = RULE_SETS.find((r) => r === wanted);
  if (!rules)
    throw new ProblemError({
      code: 'wrong-use',
      message: `"${String(wanted)}" is no rule set: say --rule ${RULE_SETS.join(' or --rule ')}.`,
    });
  return { ...own, rules };
}

export const names: Command = {
  usage: 'names FOLDER [--rule underscore|plain|portable] [--originals] [--mentioned] [--apply]',
  summary: 'Names that break the rules of the project, and what they would be. References follow a rename.',
  examples: ['names .', 'names . --rule portable --apply'],
  flags: { rule: { type: 'string' }, originals: { type: 'boolean' }, mentioned: { type: 'boolean' }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    if (!isRooted(scope)) throw new ProblemError({ code: 'wrong-use', message: 'Name a folder, not a map.' });
    const naming = ruleFlag(call, scope.project?.naming ?? DEFAULT_NAMING);
    const evenOriginals = call.flags['originals'] === true;
    const evenMentioned = call.flags['mentioned'] === true;
    const options = { naming, evenOriginals, evenMentioned, who: who() };
    const { findings, plan, protectedPaths, mentioned } = await planRenames(scope, knownRoots(dataFolder()), options);
    const apply = call.flags['apply'] === true;
    if (apply && plan) await withJournal((options) => runChange(plan.change, options));
    const references = (plan?.references ?? []).map(({ map, layer, before, after }) => ({ map, layer, before, after }));
    return {
      json: { ...heads(scope), findings, renames: plan?.files ?? [], references, protected: protectedPaths, mentioned, applied: apply },
      text: [
        ...columns(findings.map((f) => [f.path, '→', f.proposed ?? '', f.message])),
        ...(evenMentioned
          ? []
          : mentioned.map((m) => `left as it is, since ${m.files.join(', ')} mentions it (--mentioned renames it too): ${m.path}`)),
        ...protectedPaths.map((p) => `left as it is, since it is an original (--originals renames it too): ${p}`),
        `${many(plan?.files.length ?? 0, 'file')} and ${many(references.length, 'reference')} ${apply ? 'renamed' : 'to be renamed; --apply does it'}`,
      ],
      status: findings.length && (!apply || protectedPaths.length || (mentioned.length && !evenMentioned)) ? 1 : 0,
    };
  },
};
