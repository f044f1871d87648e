import { statSync } from 'node:fs';
import { datasetId, ProblemError, reachOf, joined } from '@rootmap/core';
import type { OutsideView } from '@rootmap/core/contract';
import { basename, dirname, join } from '../disk/native-path.js';
import { linkLocations, locationOf, type RootedScope } from '../project/scope.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { layerData } from './layer-data.js';
import { ownerTitle } from './view-new-layers.js';
import { shownPath } from '../project/shown-path.js';

/** What stands in a file outside the project, whose it is, and how much would come along. */
export function viewOutside(scope: RootedScope, roots: readonly string[], path: string): OutsideView {
  const found = datasetsOfFile(path).filter((d) => d.dataset.kind === 'vector' || d.dataset.kind === 'raster');
  if (found.length === 0)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${basename(path)} holds nothing that a layer can show. Choose a file with shapes or pixels.`,
    });
  const { group } = found[0]!.dataset;
  const { place, segments } = locationOf(dirname(path), scope.places);
  const links = linkLocations(scope).map((l) => l.location);
  return {
    path,
    folder: { place, path: joined(segments) },
    shownFolder: shownPath(dirname(path), scope),
    datasets: found.map(({ dataset }) => {
      const id = datasetId(path, dataset.table);
      const { kind, count } = layerData(id, dataset);
      return { id, name: dataset.table ?? basename(path), kind, count };
    }),
    reach: reachOf(locationOf(path, scope.places), { places: scope.places, root: locationOf(scope.root, scope.places), links }),
    otherProject: ownerTitle(path, scope, roots),
    bytes: [group.main, ...group.companions].reduce(
      (sum, f) => sum + (statSync(join(dirname(path), basename(f.path)), { throwIfNoEntry: false })?.size ?? 0),
      0,
    ),
  };
}
