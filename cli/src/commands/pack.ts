import { statSync } from 'node:fs';
import { isRole, ProblemError, SEND_ALL, type Role, type SendChoices, isInOrder } from '@rootmap/core';
import {
  basename,
  copyToPlace,
  deliveryPlan,
  editionSent,
  isRooted,
  dataFolder,
  join,
  mapPicturesIn,
  pack as packBundle,
  planPack,
  resolve,
  suggestedBundle,
} from '@rootmap/engine';
import type { Call, Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { many } from '../text.js';

export const pack: Command = {
  usage:
    'pack FOLDER --out FILE.zip [--used] [--map MAP]… [--without ROLE|PATTERN]… [--along] [--arrange PLAN] [--leave-fetchable] [--add FILE]… [--used-tables] [--into-geodatabase] [--looks] [--pictures] [--layer MAP#ID] [--to FOLDER]',
  summary: 'Makes a bundle (BagIt in a zip) of a project, reads it back, and says how each layer will be on arrival.',
  examples: [
    'pack . --out moorings.zip',
    'pack . --out moorings.zip --used --leave-fetchable',
    "pack . --out beds.zip --layer 'maps/moorings.owc.json#beds'",
  ],
  flags: {
    out: { type: 'string' },
    to: { type: 'string' },
    used: { type: 'boolean' },
    'only-used': { type: 'boolean' },
    map: { type: 'string', multiple: true },
    without: { type: 'string', multiple: true },
    along: { type: 'boolean' },
    arrange: { type: 'string' },
    'leave-fetchable': { type: 'boolean' },
    add: { type: 'string', multiple: true },
    looks: { type: 'boolean' },
    pictures: { type: 'boolean' },
    'used-tables': { type: 'boolean' },
    'into-geodatabase': { type: 'boolean' },
    layer: { type: 'string' },
  },
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    if (!isRooted(scope))
      throw new ProblemError({ code: 'wrong-use', message: 'A bundle is made of a project folder. Name the folder, not a map.' });
    if (scope.named !== scope.root)
      throw new ProblemError({ code: 'wrong-use', message: `A bundle is made of a whole project. Name its root: ${scope.root}` });
    const { out, to } = call.flags;
    if (typeof out === 'string' && typeof to === 'string')
      throw new ProblemError({ code: 'wrong-use', message: 'Name one of them: --out FILE.zip, or --to FOLDER for a copy without a zip.' });
    const folder = typeof to === 'string' ? intoFolder(resolve(call.cwd, to), scope.project?.name ?? basename(scope.root)) : null;
    const file = folder ?? (typeof out === 'string' ? resolve(call.cwd, out) : suggestedBundle(scope));
    const plan = planPack(scope, {
      choices: choicesOf(call),
      out: file,
      added: listOf(call, 'add').map((p) => resolve(call.cwd, p)),
      pagesFolder: mapPicturesIn(dataFolder()),
      person: who(),
    });
    const make = folder === null ? packBundle : copyToPlace;
    const { manifest: _, ...result } = await withJournal(async (options, editions) => {
      const told = (p: { done: number; of: number; item: string }): void =>
        call.progress(`${Math.round((100 * p.done) / Math.max(1, p.of))} % ${p.item}`);
      const made = await make(plan, file, who(), options, told);
      if (plan.choices.arrange === null) await editions.keep(scope.root, basename(file), await editionSent(plan, made.manifest));
      return made;
    });
    const bad = result.layers.filter((l) => !isInOrder(l.state));
    const faults = plan.findings.filter((f) => !f.isNote);
    return {
      json: { ...heads(scope), ...result, findings: plan.findings },
      text: [
        `${result.file}: ${result.bytes} bytes, ${many(result.payload.files, 'file')}`,
        ...result.brought.map((b) => `came along: ${b.from} as ${b.to}`),
        ...result.leftOut.map((l) => `left out: ${l.path} (${l.why})`),
        ...result.services.map((s) => `not carried: ${s.title} (${s.address})`),
        ...plan.pages.map((p) =>
          p.file
            ? `picture of ${p.title}: ${p.file.to}, drawn ${new Date(p.drawn!.ms).toISOString()}${p.drawn!.without.length > 0 ? `, not or not wholly on it: ${p.drawn!.without.join(', ')}` : ''}`
            : `no picture of ${p.title}: the app drew none of this state of it`,
        ),
        ...bad.map((l) => `${l.state} on arrival: ${l.title}`),
        ...plan.findings.filter((f) => f.check !== 'layers').map((f) => `${f.check}: ${f.path}: ${f.why}`),
        ...result.carriers.map((c) => `${c.fits ? 'fits' : 'too large'}: ${c.name}`),
      ],
      status: bad.length || faults.length || plan.damaged.length ? 1 : 0,
    };
  },
};

const listOf = (call: Call, name: string): string[] => {
  const value = call.flags[name];
  return Array.isArray(value) ? (value as string[]) : [];
};

/** An existing folder means into it. */
const intoFolder = (path: string, name: string): string =>
  statSync(path, { throwIfNoEntry: false })?.isDirectory() === true ? join(path, name) : path;

/** `MAP#ID`: the map from the root, and the id of the layer. */
function layerNamed(text: string): { map: string; id: string } {
  const at = text.indexOf('#');
  if (at < 1)
    throw new ProblemError({ code: 'wrong-use', message: `"${text}" names no layer: write MAP#ID, as the command layers tells them.` });
  return { map: text.slice(0, at).replace(/^\.\//, ''), id: text.slice(at + 1) };
}

function choicesOf(call: Call): SendChoices {
  const { flags } = call;
  const maps = listOf(call, 'map');
  const without = listOf(call, 'without');
  const isRoleName = (text: string): text is Role => isRole(text);
  return {
    ...SEND_ALL,
    what: flags['used'] === true || flags['only-used'] === true ? 'used' : 'all',
    maps: maps.length > 0 ? maps.map((m) => m.replace(/^\.\//, '')) : null,
    withoutRoles: without.filter(isRoleName),
    without: without.filter((w) => !isRoleName(w)),
    // What is gathered comes along.
    along: flags['along'] === true || flags['into-geodatabase'] === true ? 'all' : 'none',
    tables: flags['used-tables'] === true ? 'used' : 'whole',
    gathers: flags['into-geodatabase'] === true,
    looksBeside: flags['looks'] === true,
    leavesPictures: flags['pictures'] === true,
    layer: typeof flags['layer'] === 'string' ? layerNamed(flags['layer']) : null,
    leaveFetchable: flags['leave-fetchable'] === true,
    arrange: typeof flags['arrange'] === 'string' ? deliveryPlan(flags['arrange'], resolve(call.cwd, flags['arrange'])) : null,
  };
}
