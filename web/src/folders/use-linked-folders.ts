import { useQueries } from '@tanstack/react-query';
import type { LinkedFolderView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { linkPath } from './folder-rows.js';

interface LinkedFolder {
  readonly name: string;
  /** Undefined: it was not opened yet, or is still looked through. */
  readonly content: LinkedFolderView | undefined;
}

/** The linked folders that are here; what stands in one is asked for once it is opened. */
export function useLinkedFolders(project: ProjectView, open: ReadonlySet<string>): readonly LinkedFolder[] {
  const here = project.links.filter((l) => l.present).map((l) => l.name);
  return useQueries({
    queries: here.map((name) => ({
      queryKey: keys.of(project.key, 'linked-folder', name),
      queryFn: () => api.linkedFolder(project.key, name),
      enabled: open.has(linkPath(name)),
    })),
    combine: (answers) => answers.map(({ data }, i) => ({ name: here[i]!, content: data })),
  });
}
