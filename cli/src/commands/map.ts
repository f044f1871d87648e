import { datasetId, ProblemError } from '@rootmap/core';
import { dataFolder, isBelow, join, knownRoots, pathFrom, planEdit, resolve, rooted, runChange } from '@rootmap/engine';
import { textFlag, type Command } from '../command.js';
import { datasetsFrom } from '../datasets-from.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { many } from '../text.js';

/** Datasets become layers of a new map, or of one that is there. */
export const map: Command = {
  usage: 'map FOLDER SOURCE[#TABLE]… --title TITLE|--into MAP [--apply]',
  summary:
    'Makes a map of datasets, or brings them into a map: points over lines over areas over rasters, referenced as the project has it.',
  examples: [
    "map . originals/beds.shp originals/lights.shp --title 'Beds and lights' --apply",
    'map . work.gpkg#moorings --into maps/harbour.owc.json --apply',
  ],
  flags: { title: { type: 'string' }, into: { type: 'string' }, apply: { type: 'boolean' } },
  paths: [2, 200],
  run: async (call) => {
    const [folder, ...sources] = call.paths;
    const [title, into] = [textFlag(call, 'title'), textFlag(call, 'into')];
    if ((title === null) === (into === null))
      throw new ProblemError({ code: 'wrong-use', message: 'Say what becomes of them: --title TITLE for a new map, or --into MAP.' });
    const scope = rooted(scopeOf(call, folder));
    const path = into === null ? null : resolve(call.cwd, into);
    if (path !== null && !isBelow(scope.root, path))
      throw new ProblemError({ code: 'wrong-use', message: `${into!} is no map of this project.` });
    const datasets = sources.flatMap(datasetsFrom).map((f) => datasetId(join(f.folder, f.dataset.group.path), f.dataset.table));
    const request = { kind: 'add-to-map', datasets, map: path && pathFrom(scope.root, path), title: title ?? '' } as const;
    const { change, preview } = await planEdit(scope, request, {
      roots: knownRoots(dataFolder()),
      who: who(),
      resolve: (at: { readonly path: string }) => at.path,
      missed: [],
      isQuick: false,
    });
    const apply = call.flags['apply'] === true;
    if (apply && change) await withJournal((options) => runChange(change, options));
    const layers = preview.added.map((l) => ({ map: l.map, title: l.title, href: l.href }));
    return {
      json: { ...heads(scope), layers, applied: apply && change !== null },
      text: [
        ...layers.map((l) => `${l.map}: ${l.title}, ${l.href}`),
        `${many(layers.length, 'layer')}${apply ? '' : ' to be made; --apply does it'}`,
      ],
      status: 0,
    };
  },
};
