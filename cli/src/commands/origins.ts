import { EMPTY_ORIGIN, originFindings, ProblemError, type Origin } from '@rootmap/core';
import {
  canHaveSheet,
  confinementOf,
  dataAt,
  datasetsOfFile,
  dirname,
  idOf,
  keeperOf,
  Origins,
  planOriginsOf,
  rooted,
  runChange,
  surveyFolder,
  type FoundDataset,
} from '@rootmap/engine';
import type { Call, Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, isFolder, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

type Member = Exclude<keyof Origin, 'passages' | 'edition' | 'isReobtainable'>;
const MEMBERS = Object.keys(EMPTY_ORIGIN).filter((m): m is Member => m !== 'isReobtainable');

/** `MEMBER=VALUE`, as often as it is given. */
function changesOf(call: Call): Partial<Origin> {
  const given = call.flags['set'];
  const changes: Partial<Record<Member, string>> = {};
  for (const text of Array.isArray(given) ? (given as readonly string[]) : []) {
    const at = text.indexOf('=');
    const member = MEMBERS.find((m) => m === text.slice(0, at));
    if (!member)
      throw new ProblemError({ code: 'wrong-use', message: `"${text}" sets nothing: MEMBER=VALUE, with ${MEMBERS.join(', ')}.` });
    changes[member] = text.slice(at + 1);
  }
  return changes;
}

/** Where data came from, as it is written down beside it; for one dataset or all of a folder it can be written. */
export const origins: Command = {
  usage: 'origins FOLDER|FILE [--set MEMBER=VALUE]… [--apply]',
  summary: 'Lists where datasets came from, or writes it down: publisher, address, licence, attribution, what is stated.',
  examples: ['origins .', "origins originals/beds.shp --set publisher='Harbour Office' --set licence=CC-BY-4.0 --apply"],
  flags: { set: { type: 'string', multiple: true }, apply: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const path = call.paths[0]!;
    const changes = changesOf(call);
    const isWrite = Object.keys(changes).length > 0;
    const folder = isFolder(path) ? path : dirname(path);
    const scope = rooted(scopeOf(call, folder));
    const found: FoundDataset[] = isFolder(path)
      ? surveyFolder(path, confinementOf(path, scope.places))
          .datasets.filter(canHaveSheet)
          .map((dataset) => ({ folder: path, dataset }))
      : datasetsOfFile(path);
    if (found.length === 0) throw new ProblemError({ code: 'not-found', what: 'dataset', id: path });
    const keeper = keeperOf(scope);
    const known = new Origins(keeper);
    const told = found.map((f) => {
      const at = dataAt(f);
      const before = known.of(at.path, at.table);
      return { ...at, id: idOf(f), before, origin: isWrite ? { ...EMPTY_ORIGIN, ...before, ...changes } : before };
    });
    const { writes, damaged } = isWrite ? planOriginsOf(told, keeper) : { writes: [], damaged: [] };
    const apply = isWrite && call.flags['apply'] === true && writes.length > 0;
    const title = `Write down where ${told.length === 1 ? 'a dataset' : `${told.length} datasets`} came from`;
    if (apply) await withJournal((options) => runChange({ title, kind: 'origin', root: scope.root, who: who(), steps: writes }, options));
    const lacking = told.filter((t) => originFindings(t.origin).length > 0);
    return {
      json: {
        ...heads(scope),
        origins: told.map(({ id, origin }) => ({ dataset: id, origin, findings: originFindings(origin) })),
        damaged,
        applied: apply,
      },
      text: [
        ...columns(
          told.map(({ id, origin }) => [
            id,
            origin?.publisher ?? '',
            origin?.licence ?? '',
            originFindings(origin)
              .map((f) => f.message)
              .join('; '),
          ]),
        ),
        ...damaged.map((file) => `left as it is, since it is no record: ${file}`),
        isWrite
          ? `${title}${apply ? ': done' : '; --apply does it'}`
          : `${many(told.length, 'dataset')}, ${lacking.length} with something missing`,
      ],
      status: lacking.length > 0 || damaged.length > 0 ? 1 : 0,
    };
  },
};
