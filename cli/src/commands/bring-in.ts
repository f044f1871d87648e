import { statSync } from 'node:fs';
import { DEFAULT_NAMING, EMPTY_ORIGIN, ProblemError, type ToldOrigin } from '@rootmap/core';
import {
  basename,
  dataFolder,
  knownRoots,
  lookInside,
  openSource,
  planIntake,
  rooted,
  runChange,
  unpackInto,
  type Inside,
} from '@rootmap/engine';
import type { Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeAround, who } from '../scope.js';
import { columns, many } from '../text.js';

const shown = ({ groups, refused }: Inside) => ({
  things: groups.map(({ path, kind, format, bytes, count, crs, unit, findings }) => ({
    path,
    kind,
    format,
    bytes,
    count,
    crs,
    unit,
    findings,
  })),
  refused,
});

/** An archive or a folder, looked into, and unpacked into a project with what its notes tell of its origin. */
export const bringIn: Command = {
  usage: 'bring-in ARCHIVE|FOLDER INTO [--only PATH…] [--keep-names] [--trash-archive] [--apply]',
  summary:
    'Tells what is in an archive, and unpacks it into a folder of a project: checked on the way, read-only among the originals, with its origin.',
  examples: [
    'bring-in ~/downloads/survey.zip originals/survey',
    'bring-in ~/downloads/survey.zip originals/survey --only beds.shp --apply',
  ],
  flags: {
    only: { type: 'string', multiple: true },
    'keep-names': { type: 'boolean' },
    'trash-archive': { type: 'boolean' },
    apply: { type: 'boolean' },
  },
  paths: [2, 2],
  run: async (call) => {
    const [source, target] = [call.paths[0]!, call.paths[1]!];
    const scope = rooted(scopeAround(call, target));
    const inside = await lookInside(source);
    if (inside.problem !== null) throw new ProblemError({ code: 'wrong-use', message: inside.problem });
    const only = call.flags['only'] as readonly string[] | undefined;
    const unknown = only?.find((o) => !inside.groups.some((g) => g.path === o));
    if (unknown !== undefined)
      throw new ProblemError({
        code: 'wrong-use',
        message: `There is no ${unknown} in ${basename(source)}. In it are ${inside.groups.map((g) => g.path).join(', ')}.`,
      });
    const isFolder = statSync(source).isDirectory();
    const archive = await openSource(source, isFolder);
    try {
      const told = Object.fromEntries(inside.groups.flatMap((g): [string, ToldOrigin][] => (g.told ? [[g.path, g.told]] : [])));
      const plan = planIntake(
        {
          source,
          name: basename(source),
          entries: archive.entries,
          wanted: only ?? null,
          target,
          naming: call.flags['keep-names'] === true ? null : (scope.project?.naming ?? DEFAULT_NAMING),
          origin: { ...EMPTY_ORIGIN, ...inside.proposed },
          told,
          removeArchive: call.flags['trash-archive'] === true && !isFolder,
        },
        scope,
        [scope.root, ...knownRoots(dataFolder())],
        who(),
      );
      const apply = call.flags['apply'] === true;
      if (apply) {
        const never = new AbortController().signal;
        await withJournal((options) =>
          runChange(plan.change, { ...options, stageAll: unpackInto(plan, archive, (_, item) => call.progress(item), never) }),
        );
      }
      const files = plan.files.map(({ from, to }) => ({ from, to }));
      return {
        json: { ...heads(scope), ...shown(inside), files, into: target, original: plan.isOriginal, applied: apply },
        text: [
          ...columns(inside.groups.map((g) => [g.path, g.kind, g.count === null ? '' : many(g.count, 'record'), g.crs ?? ''])),
          ...inside.refused.map((r) => `left out: ${r.path}: ${r.why}`),
          ...columns(files.filter((f) => f.from !== f.to).map((f) => [f.from, '→', f.to])),
          `${many(files.length, 'file')} ${apply ? `in ${target}` : `to be unpacked into ${target}; --apply does it`}`,
        ],
        status: inside.refused.length > 0 ? 1 : 0,
      };
    } finally {
      archive.close();
    }
  },
};
