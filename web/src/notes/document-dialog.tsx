import { useQuery } from '@tanstack/react-query';
import type { PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { NoteDialog } from './note-dialog.js';

/** A document of a project, to be read. */
export function DocumentDialog({
  projectKey,
  at,
  name,
  onClose,
}: {
  projectKey: string;
  at: PathRequest;
  name: string;
  onClose: () => void;
}) {
  const view = useQuery({
    queryKey: keys.of(projectKey, 'note', at.place, at.path),
    queryFn: ({ signal }) => api.document(projectKey, at, signal),
    retry: false,
    gcTime: 0,
  });
  return <NoteDialog name={name} view={view} taking={null} onClose={onClose} />;
}
