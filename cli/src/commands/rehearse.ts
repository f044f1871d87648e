import { existsSync, statSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { basename, join, resolve, isRooted, rehearse as rehearseMove, STAY, type RehearsalOrder } from '@rootmap/engine';
import type { Call, Command } from '../command.js';
import { heads, scopeOf } from '../scope.js';
import { columns, many } from '../text.js';

const isForeign = (path: string): boolean => /^[A-Za-z]:/.test(path) || path.startsWith('\\\\');

function target(call: Call, root: string): string | null {
  const to = call.flags['to'];
  if (to === undefined) return null;
  if (typeof to !== 'string' || to === '') throw new ProblemError({ code: 'wrong-use', message: 'Say --to PATH.' });
  if (isForeign(to)) return to;
  const path = resolve(call.cwd, to);
  return path !== root && existsSync(path) && statSync(path).isDirectory() ? join(path, basename(root)) : path;
}

function drives(call: Call): RehearsalOrder['drives'] {
  return ((call.flags['drive'] ?? []) as readonly string[]).map((text) => {
    const at = text.indexOf('=');
    if (at < 1) throw new ProblemError({ code: 'wrong-use', message: `"${text}" names no drive: write PLACE=D:` });
    return {
      place: text.slice(0, at),
      names: text
        .slice(at + 1)
        .split(',')
        .filter(Boolean),
    };
  });
}

export const rehearse: Command = {
  usage:
    'rehearse FOLDER [--to PATH] [--copy] [--elsewhere] [--without-place PLACE]… [--drive PLACE=D:]… [--case-sensitive] [--path-limit]',
  summary: 'Works out which layers would still be sound after a move that is not made.',
  examples: ['rehearse . --to /media/stick/moorings --copy', 'rehearse . --drive desk=E: --case-sensitive'],
  flags: {
    to: { type: 'string' },
    copy: { type: 'boolean' },
    elsewhere: { type: 'boolean' },
    'without-place': { type: 'string', multiple: true },
    drive: { type: 'string', multiple: true },
    'case-sensitive': { type: 'boolean' },
    'path-limit': { type: 'boolean' },
  },
  paths: [1, 1],
  run: (call) => {
    const scope = scopeOf(call);
    if (!isRooted(scope))
      throw new ProblemError({ code: 'wrong-use', message: 'A move is rehearsed for a project folder. Name the folder.' });
    const isOn = (flag: string): boolean => call.flags[flag] === true;
    const order: RehearsalOrder = {
      ...STAY,
      to: target(call, scope.root),
      isCopy: isOn('copy'),
      isElsewhere: isOn('elsewhere'),
      without: (call.flags['without-place'] ?? []) as readonly string[],
      drives: drives(call),
      isStrict: isOn('case-sensitive'),
      hasPathLimit: isOn('path-limit'),
    };
    const { layers, broken, damaged } = rehearseMove(scope, order);
    return Promise.resolve({
      json: {
        ...heads(scope),
        layers: layers.map(({ map, layer, title, before, after, fix, lostStyle }) => ({
          map: map.path,
          layer,
          title,
          before: { state: before.state, resolved: before.resolved },
          after: { state: after.state, resolved: after.resolved, ...(after.reason === undefined ? {} : { reason: after.reason }) },
          ...(fix === null ? {} : { fix }),
          ...(lostStyle === null ? {} : { lostStyle }),
        })),
        broken,
        damaged,
      },
      text: [
        ...columns(
          layers
            .filter((l) => l.isBroken)
            .map((l) => [l.title, l.before.state, '→', l.after.state, l.after.detail ?? l.after.reason ?? '', l.fix ?? '']),
        ),
        `${many(broken, 'layer')} of ${layers.length} would be lost; nothing was moved`,
      ],
      status: broken > 0 || damaged.length > 0 ? 1 : 0,
    });
  },
};
