import type { EditRequest, TamperedView } from '@rootmap/core/contract';
import type { PlanFolder } from '@rootmap/core';
import { planEdit } from '../edit/plan-edit.js';
import { proposeAdoption } from '../edit/propose-adoption.js';
import { findDuplicates } from '../folders/duplicates.js';
import { housekeep } from '../folders/housekeeping.js';
import { emptyTrash, listTrash } from '../folders/trash.js';
import { viewFolders, viewLinkedFolder } from '../folders/view-folders.js';
import type { MovedPairs } from '../move/follow-moves.js';
import { asJson, resolvePath, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

/** The folders of a project: how they stand, and every change that is planned in them. */
export const FOLDER_TASKS = {
  /** A `FoldersView` as JSON. */
  folders: (input: TaskBase & { roots: readonly string[]; tampered: readonly TamperedView[] }) =>
    asJson(viewFolders(scopeOf(input), input.roots, input.tampered)),
  /** A `LinkedFolderView` as JSON. */
  'linked-folder': (input: TaskBase & { roots: readonly string[]; name: string }) =>
    asJson(viewLinkedFolder(scopeOf(input, true), input.roots, input.name)),
  edit: (input: TaskBase & { roots: readonly string[]; request: EditRequest; isQuick: boolean; missed: readonly MovedPairs[] }) =>
    // For a map by itself, what is edited stands in folders: its own is where the change belongs.
    planEdit(scopeOf({ places: input.places, root: input.root, who: input.who }), input.request, {
      ...input,
      resolve: (at, mayBeNew) => resolvePath(input.places, at, mayBeNew),
    }),
  adopt: (input: TaskBase & { folders: readonly PlanFolder[] }) => proposeAdoption(scopeOf(input), input.folders),
  housekeep: (input: TaskBase) => housekeep(scopeOf(input, true)),
  duplicates: (input: TaskBase, { progress }: TaskContext) => findDuplicates(scopeOf(input, true), progress),
  trash: (input: TaskBase) => listTrash(input.root),
  'empty-trash': (input: TaskBase) => emptyTrash(input.root),
} satisfies TaskTable;
