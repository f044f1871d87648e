import { EMPTY_ORIGIN, PASSAGE_WORD, withoutPassage, withPassage } from '@rootmap/core';
import type { PassageRequest } from '@rootmap/core/contract';
import type { PlannedChange } from '../changes/change.js';
import { dirname } from '../disk/native-path.js';
import { noteOf } from '../notes/notes-beside.js';
import { dataAt, type FoundDataset } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { keeperOf, Origins, planOriginsOf, type Told } from './origins.js';

/** A passage of a note becomes what the publisher states of datasets, each in its own record; or is none any more. */
export function planPassage(
  scope: RootedScope,
  data: readonly FoundDataset[],
  { passage, isTaken }: Pick<PassageRequest, 'passage' | 'isTaken'>,
  who: string,
): { readonly change: PlannedChange | null; readonly damaged: readonly string[] } {
  const keeper = keeperOf(scope);
  const origins = new Origins(keeper);
  // It lies beside each of them: looked for once in a folder, of which thousands may be.
  const folders = new Map(data.map((found) => [`${found.folder}\n${dirname(dataAt(found).path)}`, found]));
  if (isTaken) for (const found of folders.values()) noteOf(found, passage.note);
  const told = data.map((found): Told => {
    const at = dataAt(found);
    const before = origins.of(at.path, at.table) ?? EMPTY_ORIGIN;
    return { ...at, origin: isTaken ? withPassage(before, passage) : withoutPassage(before, passage) };
  });
  const { writes, damaged } = planOriginsOf(told, keeper);
  const title = `${isTaken ? 'Take over' : 'Take back'} what is stated of ${told.length === 1 ? 'a dataset' : `${told.length} datasets`}: ${PASSAGE_WORD[passage.about]}`;
  return { change: writes.length > 0 ? { title, kind: 'origin', root: scope.root, who, steps: writes } : null, damaged };
}
