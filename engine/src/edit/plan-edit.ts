import { randomUUID } from 'node:crypto';
import type { EditRequest } from '@rootmap/core/contract';
import type { RootedScope } from '../project/scope.js';
import { planAssignCrs, planCsvColumns, planLayers, planMapWorking, planTableEditOf, planTables } from './dataset-edits.js';
import { planBringTable, planRebuildIndex } from './companion-edits.js';
import { guardStaying, planFolders, planRole } from './folder-edits.js';
import { planFollowEdit, planLink, planRelink, planUnlink } from './link-edits.js';
import { planAddServices, planLinkService, planMoveService, planUnlinkService } from './service-edits.js';
import { planBringIn, planReferences } from './reference-edits.js';
import { planNote } from './note-edits.js';
import { planCodes, planQuality } from './quality-edits.js';
import { planAdopt, planCopy, planMoveEdit, planNamesEdit, planTrash } from './move-edits.js';
import { type EditOptions, type EditPlan, planned, setMembers } from './planned.js';

export type { EditOptions, EditPlan } from './planned.js';

/** Plans what a person asks for; nothing is written. Throws what cannot be done, as a sentence. */
export async function planEdit(scope: RootedScope, edit: EditRequest, options: EditOptions): Promise<EditPlan> {
  switch (edit.kind) {
    case 'move':
      return planMoveEdit(scope, edit, options);
    case 'trash':
      return planTrash(scope, edit, options);
    case 'names':
      return planNamesEdit(scope, edit, options);
    case 'adopt':
      return planAdopt(scope, edit, options);
    case 'copy':
      return planCopy(scope, edit, options);
    case 'folders':
      return planFolders(scope, edit.folders, options);
    case 'role':
      return planRole(scope, edit, options);
    case 'card':
      return setMembers(
        scope,
        { title: edit.title, summary: edit.summary, crs: edit.crs },
        'Change what the project says of itself',
        options,
      );
    case 'note':
      return planNote(scope, edit, options);
    case 'method':
      return setMembers(scope, { method: edit.text }, 'Write down the method', options);
    case 'quality':
      return planQuality(scope, edit, options);
    case 'codes':
      return planCodes(scope, edit, options);
    case 'naming':
      return setMembers(scope, { naming: edit.naming }, 'Choose the rules for names', options);
    case 'link':
      return planLink(scope, edit, options);
    case 'assign-crs':
      return planAssignCrs(scope, edit, options);
    case 'rebuild-index':
      return planRebuildIndex(scope, edit, options);
    case 'bring-table':
      return planBringTable(scope, edit, options);
    case 'csv-columns':
      return planCsvColumns(scope, edit, options);
    case 'add-to-map':
      return planLayers(scope, edit, options);
    case 'relink':
      return planRelink(scope, edit, options);
    case 'unlink':
      return planUnlink(scope, edit.name, options);
    case 'link-service':
      return planLinkService(scope, edit, options);
    case 'unlink-service':
      return planUnlinkService(scope, edit.name, options);
    case 'move-service':
      return planMoveService(scope, edit, options);
    case 'add-services':
      return planAddServices(scope, edit, options);
    case 'working-geodatabase':
      return edit.map === null
        ? setMembers(scope, { workingGeodatabase: edit.path }, edit.path ? `Work in ${edit.path}` : 'Name no working geodatabase', options)
        : planMapWorking(scope, edit.map, edit.path, options);
    case 'use-tables':
      return planTables(scope, edit, options);
    case 'tables':
      return planTableEditOf(scope, edit, options);
    case 'references':
      return planReferences(scope, edit.layers, options);
    case 'bring-in':
      return planBringIn(scope, edit.datasets, options);
    case 'stored-form':
      return setMembers(
        scope,
        { storedForm: edit.form },
        `Store references ${edit.form === 'relative' ? 'relatively' : 'absolutely'} from now on`,
        options,
      );
    case 'separate':
      return setMembers(scope, { id: randomUUID() }, 'Make this copy a project of its own', options);
    case 'protect':
      return planned(
        scope,
        'Set the originals read-only',
        'protect',
        guardStaying(scope, scope.project?.folders ?? {}, new Set()),
        options,
      );
    case 'follow':
      return planFollowEdit(scope, options);
    case 'finish':
      return setMembers(scope, { status: 'finished', links: [] }, 'Finish the project', options);
  }
}
