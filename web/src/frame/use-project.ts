import { useOutletContext } from 'react-router';
import type { ProjectView } from '@rootmap/core/contract';

/** The project of the page around. */
export const useOpenProject = (): ProjectView => useOutletContext<ProjectView>();
