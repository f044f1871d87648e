import { BUNDLE_TASKS } from './bundle-tasks.js';
import { SERVICE_TASKS } from './service-tasks.js';
import { EXPORT_TASKS } from './export-tasks.js';
import { FOLDER_TASKS } from './folder-tasks.js';
import { GEODATABASE_TASKS } from './geodatabase-tasks.js';
import { MAP_TASKS } from './map-tasks.js';
import { MEND_TASKS } from './mend-tasks.js';
import { NOTE_TASKS } from './note-tasks.js';
import { PICTURE_TASKS } from './picture-tasks.js';
import { QUALITY_TASKS } from './quality-tasks.js';
import { PROJECT_TASKS } from './project-tasks.js';
import { SOURCE_TASKS } from './source-tasks.js';
import type { TaskContext } from './task-base.js';

/** All that a process of the pool can be asked to do. */
const TASKS = {
  ...PROJECT_TASKS,
  ...FOLDER_TASKS,
  ...SOURCE_TASKS,
  ...NOTE_TASKS,
  ...GEODATABASE_TASKS,
  ...MAP_TASKS,
  ...PICTURE_TASKS,
  ...EXPORT_TASKS,
  ...MEND_TASKS,
  ...BUNDLE_TASKS,
  ...SERVICE_TASKS,
  ...QUALITY_TASKS,
};
/** What each task takes and gives. */
export type Tasks = {
  readonly [N in keyof typeof TASKS]: { in: Parameters<(typeof TASKS)[N]>[0]; out: Awaited<ReturnType<(typeof TASKS)[N]>> };
};
export type TaskName = keyof Tasks;

/** Carries a task out in this process. */
export async function runTask<N extends TaskName>(name: N, input: Tasks[N]['in'], context: TaskContext): Promise<Tasks[N]['out']> {
  const run = TASKS[name] as unknown as (input: Tasks[N]['in'], context: TaskContext) => Tasks[N]['out'] | Promise<Tasks[N]['out']>;
  return run(input, context);
}
