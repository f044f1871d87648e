import { isInOrder } from '@rootmap/core';
import { layerRow, readMaps, totalsOf, type LayerRow } from '@rootmap/engine';
import type { Command } from '../command.js';
import { heads, scopeOf } from '../scope.js';
import { columns, many } from '../text.js';

/** Each map once, and its layers below it. */
function textOf(rows: readonly LayerRow[]): string[] {
  const lines = columns(rows.map((r) => ['', r.state, r.reach, r.stored, r.title, r.reason ?? '', r.href ?? 'no source recorded']));
  return rows.flatMap((r, i) => (r.map === rows[i - 1]?.map ? [lines[i]!] : [r.map, lines[i]!]));
}

export const layers: Command = {
  usage: 'layers FOLDER|MAP',
  summary: 'Where every layer gets its data, and whether it is there.',
  examples: ['layers .', 'layers maps/moorings.owc.json --json'],
  flags: {},
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    const seen = readMaps(scope);
    const rows = seen.maps.flatMap((m) => m.layers.map((l) => layerRow(m, l)));
    const totals = totalsOf(seen.maps);
    const bad = rows.filter((r) => !isInOrder(r.state)).length;
    return {
      json: { ...heads(scope), layers: rows, damaged: seen.damaged, totals },
      text: [
        ...textOf(rows),
        ...seen.damaged.map((d) => d.message),
        `${many(rows.length, 'layer')} in ${many(seen.maps.length, 'map')}, ${totals.sound} sound${totals['not-asked'] ? `, ${totals['not-asked']} not asked` : ''}${bad ? `, ${bad} not` : ''}`,
      ],
      status: bad || seen.damaged.length ? 1 : 0,
    };
  },
};
