import { Box, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { useOpenProject } from '../../frame/use-project.js';
import { EmptyState, ErrorState, Waiting } from '../../parts/states.js';
import { MapEditorView } from './map-editor-view.js';
import { mapDocQuery } from './map-doc-query.js';

/** One map, opened to be looked at and edited. */
export function MapEditorPage() {
  const project = useOpenProject();
  const [search] = useSearchParams();
  const path = search.get('map') ?? '';
  const doc = useQuery(mapDocQuery(project.key, path));
  if (path === '') return <EmptyState title="No map was named">Choose one of the project's maps, then open it.</EmptyState>;
  if (doc.isError && !doc.data) return <ErrorState error={doc.error} onRetry={() => void doc.refetch()} />;
  if (!doc.data)
    return (
      <Box>
        <Typography component="h1" sx={{ position: 'absolute', left: -9999 }}>
          Map
        </Typography>
        <Waiting what="Reading the map…" />
      </Box>
    );
  return <MapEditorView key={path} project={project} path={path} doc={doc.data} />;
}
