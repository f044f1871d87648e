import type { ProjectView } from '@rootmap/core/contract';
import { useGeodatabases } from '../../api/queries.js';

/** The geodatabase that a map works in, from the root: its own, else that of the project; null where none is there. */
export function useWorking(project: ProjectView, map: string, isAsked: boolean): string | null {
  const { data } = useGeodatabases(project.key, isAsked);
  if (!data) return null;
  const own = data.maps.find((m) => m.map === map)?.path;
  if (own?.startsWith(`${project.root}/`)) return own.slice(project.root.length + 1);
  return data.isWorkingThere ? data.working : null;
}
