import { layerRow, readMaps, totalsOf } from '@rootmap/engine';
import type { Command } from '../command.js';
import { heads, scopeOf } from '../scope.js';
import { columns, many } from '../text.js';

export const layers: Command = {
  usage: 'layers FOLDER|MAP',
  summary: 'Where every layer gets its data, and whether it is there.',
  flags: {},
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    const seen = readMaps(scope);
    const rows = seen.maps.flatMap((m) => m.layers.map((l) => layerRow(m, l)));
    const totals = totalsOf(seen.maps);
    const bad = rows.filter((r) => r.state !== 'sound').length;
    return {
      json: { ...heads(scope), layers: rows, damaged: seen.damaged, totals },
      text: [
        ...columns(rows.map((r) => [r.state, r.reach, r.stored, r.title, r.reason ?? '', r.href ?? 'no source recorded'])),
        ...seen.damaged.map((d) => d.message),
        `${many(rows.length, 'layer')} in ${many(seen.maps.length, 'map')}, ${totals.sound} sound${bad ? `, ${bad} not` : ''}`,
      ],
      status: bad || seen.damaged.length ? 1 : 0,
    };
  },
};
