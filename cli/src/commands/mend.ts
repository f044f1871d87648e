import { ProblemError, tellTrouble, type Judgement, isInOrder } from '@rootmap/core';
import {
  dirname,
  resolve,
  choicesOf,
  choose,
  explainBroken,
  findLostCompanions,
  findPacked,
  layerKey,
  planMend,
  readMaps,
  runChange,
  stylesOf,
  type FoundCompanion,
  type MendedLayer,
  type MendShift,
  type MendWork,
  type Packed,
  type Scope,
} from '@rootmap/engine';
import type { Call, Command } from '../command.js';
import { withJournal } from '../journal.js';
import { keyOf, pairOf } from '../layer-name.js';
import { heads, scopeOf, who } from '../scope.js';
import { many } from '../text.js';
import { mendCompanions } from './mend-companions.js';
import { replaceData } from './replace-data.js';

export const mend: Command = {
  usage:
    'mend FOLDER|MAP… [--search FOLDER]… [--least certain|likely] [--take LAYER=DATASET]… [--companions] [--replace LAYER=DATASET [--field OLD=NEW]…] [--apply]',
  summary: 'Finds where the data of broken layers is now, says why, and with --apply rewrites their references.',
  examples: ['mend .', 'mend . --search /data --apply', 'mend maps/moorings.owc.json --least likely --apply'],
  flags: {
    search: { type: 'string', multiple: true },
    least: { type: 'string' },
    take: { type: 'string', multiple: true },
    companions: { type: 'boolean' },
    replace: { type: 'string' },
    field: { type: 'string', multiple: true },
    apply: { type: 'boolean' },
  },
  paths: [1, 1000],
  run: async (call) => {
    const least = call.flags['least'] ?? 'certain';
    if (least !== 'certain' && least !== 'likely')
      throw new ProblemError({ code: 'wrong-use', message: 'Say --least certain or --least likely.' });
    const search = ((call.flags['search'] ?? []) as readonly string[]).map((f) => resolve(call.cwd, f));
    const scopes = scopesOf(call);
    if (call.flags['replace'] !== undefined) return replaceData(call, scopes[0]!);
    const takes = takesOf(call);
    const near = takes.map(({ path }) => dirname(path.replace(/#.*$/s, '')));
    const works = scopes.map((scope) => explainBroken(scope, [...search, ...near]));
    const inside = new Map<string, readonly Packed[]>();
    const tables = new Map<string, readonly FoundCompanion[]>();
    for (const work of works) {
      for (const [key, list] of await findPacked(work)) inside.set(key, list);
      for (const [key, list] of findLostCompanions(work)) tables.set(key, list);
    }
    const apply = call.flags['apply'] === true;
    const companions = apply && call.flags['companions'] === true ? await companionsOf(works, tables) : 0;
    const taken = new Map(
      takes.map(({ layer, path }) => [
        keyOf(
          works.map((w) => w.seen),
          layer,
        ),
        path,
      ]),
    );
    const whole = [...taken].find(([key]) => !works.some((w) => w.broken.some((b) => b.broken.key === key)));
    if (whole)
      throw new ProblemError({
        code: 'wrong-use',
        message: `The layer that --take gives ${whole[1]} is not broken. Use --replace for other data on purpose.`,
      });
    const applied = apply ? await applyAll(works, least, taken) : 0;
    const shifts = works.flatMap((w) => w.view.shifts).sort((a, b) => b.layers.length - a.layers.length);
    const layers = works.flatMap((work) => {
      const broken = new Map(work.broken.map((b, i) => [b.broken.key, { judgement: b.seen.judgement, proposal: work.proposals[i]! }]));
      const seen = new Map(work.seen.maps.flatMap((map) => map.layers.map((l) => [layerKey(map, l), l.judgement])));
      return work.view.layers.map((l) => {
        const { judgement, proposal } = broken.get(l.key) ?? { judgement: seen.get(l.key)!, proposal: null };
        return shown(l, work, judgement, proposal, inside.get(l.key) ?? [], tables.get(l.key) ?? []);
      });
    });
    const left = apply
      ? scopes.flatMap((s) => readMaps(s).maps.flatMap((m) => m.layers)).filter((l) => !isInOrder(l.judgement.state)).length
      : layers.length;
    const damaged = works.flatMap((w) => w.view.damaged);
    return {
      json: {
        ...heads(scopes[0]!),
        shifts,
        layers,
        styles: works.flatMap((w) => w.view.styles.map(({ key: _key, ...style }) => style)),
        damaged,
        notSearched: works.flatMap((w) => w.view.searched.projects),
        applied,
        companions,
      },
      text: [
        ...shifts.flatMap((s) => [
          `${many(s.layers.length, 'layer')} (${s.verdict}): ${s.from} → ${s.to}`,
          ...s.evidence.map((e) => `    ${e}`),
          ...redirectTold(s),
        ]),
        ...layers
          .filter((l) => l.after === null)
          .map((l) => `no trace: ${l.title} (${l.before.state}) ${l.before.href ?? ''}\n    ${l.trouble.sentence} ${l.trouble.fix}`),
        ...works.flatMap((w) => w.view.searched.projects.map((p) => `not looked into: ${p}, a project of its own; --search it by name`)),
        ...works.flatMap((w) => w.view.styles.map((t) => `style of "${t.title}" (${t.verdict}): ${t.before} → ${t.after ?? 'no trace'}`)),
        apply
          ? `${many(applied, 'layer')} mended, ${companions ? `${many(companions, 'companion')} brought back, ` : ''}${left} not sound`
          : `${many(layers.length, 'layer')} to look at; --apply mends those that are ${least}`,
      ],
      status: left || damaged.length ? 1 : 0,
    };
  },
};

/** Said once, it spares the rewriting of the maps. */
const redirectTold = ({ redirect: r }: MendShift): string[] =>
  r?.kind === 'drive'
    ? [`    or: the place ${r.place} is called ${r.drive}, too (--place ${r.place}=FOLDER,${r.drive})`]
    : r
      ? [`    or: the link ${r.name} leads there`]
      : [];

function shown(
  { map, layer, title, before, after, verdict, choice, candidates, shift }: MendedLayer,
  work: MendWork,
  judgement: Judgement,
  proposal: MendWork['proposals'][number] | null,
  inside: readonly Packed[],
  tables: readonly FoundCompanion[],
) {
  const trouble = tellTrouble(
    judgement,
    proposal,
    inside.map((p) => p.archive),
    tables.length,
    shift === null ? null : work.view.shifts[shift]!.kind,
  );
  return { map, layer, title, before, after, verdict, choice, candidates, trouble, inside, tables };
}

/** What was named, put together where it belongs to one root, so that one shift is one shift. */
function scopesOf(call: Call): Scope[] {
  const byRoot = new Map<string, Scope>();
  for (const path of call.paths) {
    const scope = scopeOf(call, path);
    const key = scope.root ?? scope.named;
    const other = byRoot.get(key);
    byRoot.set(key, other ? { ...other, named: key, maps: [...new Set([...other.maps, ...scope.maps])].sort() } : scope);
  }
  return [...byRoot.values()];
}

const companionsOf = (works: readonly MendWork[], tables: ReadonlyMap<string, readonly FoundCompanion[]>): Promise<number> =>
  withJournal(async (options) => {
    let n = 0;
    for (const work of works) n += await mendCompanions(work, tables, options);
    return n;
  });

/** `--take LAYER=DATASET[#TABLE]`: a dataset that a person names for a layer, whatever is proposed. */
const takesOf = (call: Call): { readonly layer: string; readonly path: string }[] =>
  ((call.flags['take'] ?? []) as readonly string[]).map((flag) => {
    const [layer, dataset] = pairOf(flag, '--take', 'LAYER=DATASET');
    const [path, table] = dataset.split(/#(.*)/s, 2) as [string, string?];
    return { layer, path: resolve(call.cwd, path) + (table ? `#${table}` : '') };
  });

function applyAll(works: readonly MendWork[], least: 'certain' | 'likely', taken: ReadonlyMap<string, string>): Promise<number> {
  return withJournal(async (options) => {
    let applied = 0;
    for (const work of works) {
      const own = [...taken].filter(([key]) => work.view.layers.some((l) => l.key === key));
      const named = choose(
        work,
        own.map(([key, path]) => ({ key, path })),
      );
      const choices = [...choicesOf(work, least).filter((c) => !taken.has(c.key)), ...named];
      const change = planMend(work, choices, who(), stylesOf(work, least));
      if (!change) continue;
      await runChange(change, options);
      applied += choices.length;
    }
    return applied;
  });
}
