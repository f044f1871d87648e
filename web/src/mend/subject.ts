import { createContext, useContext } from 'react';
import type { PathRequest } from '@rootmap/core/contract';

/** What is mended: a project, or one map by itself. */
export interface MendSubject {
  /** Stands in the addresses of the server. */
  readonly key: string;
  readonly title: string;
  /** All its layers, also those that are sound. */
  readonly layers: number;
  /** Its stops beside Mend, for a project; null: it has none. */
  readonly stops: string | null;
  /** Where choosing a folder starts. */
  readonly start: PathRequest;
}

export const MendSubjectContext = createContext<MendSubject | null>(null);

export function useSubject(): MendSubject {
  const subject = useContext(MendSubjectContext);
  if (!subject) throw new Error('nothing to mend around this');
  return subject;
}
