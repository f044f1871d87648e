import { ProblemError } from '@rootmap/core';
import { resolve, fullFingerprint, hrefFor, lookAtReplacement, planReplace, readMaps, runChange, type Scope } from '@rootmap/engine';
import type { Call, Answer } from '../command.js';
import { withJournal } from '../journal.js';
import { keyOf, pairOf } from '../layer-name.js';
import { heads, who } from '../scope.js';
import { many } from '../text.js';

/** `mend … --replace LAYER=DATASET[#TABLE] [--field OLD=NEW]…`: other data on purpose, for every layer that draws the same. */
export async function replaceData(call: Call, scope: Scope): Promise<Answer> {
  const [layer, target] = pairOf(String(call.flags['replace']), '--replace', 'LAYER=DATASET');
  const [path, table = null] = target.split(/#(.*)/s, 2) as [string, string?];
  const to = { path: resolve(call.cwd, path), table: table || null };
  const named = ((call.flags['field'] ?? []) as readonly string[]).map((f) => pairOf(f, '--field', 'OLD=NEW'));
  const read: Parameters<typeof lookAtReplacement>[3] = (found) => fullFingerprint(found.folder, found.dataset);
  const found = lookAtReplacement(scope, keyOf([readMaps(scope)], layer), to, read);
  if (!found.data) throw new ProblemError({ code: 'wrong-use', message: `Say which table, as ${path}#TABLE: ${found.tables.join(', ')}.` });
  const proposed = [...found.proposed].filter((pair): pair is [string, string] => pair[1] !== null);
  const fields = new Map([...proposed, ...named]);
  const change = planReplace(scope, { layers: found.layers.map((l) => l.key), to, fields }, who(), read);
  const apply = call.flags['apply'] === true;
  if (apply) await withJournal((options) => runChange(change, options));
  const replaced = found.layers.map(({ map, seen, uses }) => ({
    map: map.path,
    layer: seen.layer.id,
    title: seen.layer.title,
    before: seen.layer.reference?.href ?? null,
    after: hrefFor(map, found.data!.target, scope),
    fields: Object.fromEntries([...uses.keys()].map((field) => [field, fields.get(field) ?? field])),
  }));
  return {
    json: { ...heads(scope), replaced, warnings: found.warnings, applied: apply ? replaced.length : 0 },
    text: [
      ...replaced.flatMap((r) => [
        `${r.title}: ${r.before ?? 'no source'} → ${r.after}`,
        ...Object.entries(r.fields).map(([a, b]) => `    ${a} → ${b}`),
      ]),
      ...found.warnings,
      apply
        ? `${many(replaced.length, 'layer')} given other data`
        : `${many(replaced.length, 'layer')} would be given other data; --apply does it`,
    ],
    status: 0,
  };
}
