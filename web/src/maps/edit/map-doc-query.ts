import { queryOptions } from '@tanstack/react-query';
import { api } from '../../api/client.js';
import { keys } from '../../api/queries.js';

/** One open page is one editor, also after it was loaded again. */
export function editorId(): string {
  const known = sessionStorage.getItem('rootmap.editor');
  if (known) return known;
  const made = crypto.randomUUID();
  sessionStorage.setItem('rootmap.editor', made);
  return made;
}

/** Asked for where the page is left for the map, so that it is on its way before the map's page is drawn. */
export const mapDocQuery = (key: string, path: string) =>
  queryOptions({
    queryKey: keys.of(key, 'map-doc', path),
    queryFn: () => api.mapDoc(key, path, editorId()),
    retry: false,
  });
