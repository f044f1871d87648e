import { Box, Typography } from '@mui/material';
import { Link } from 'react-router';
import type { ProjectSummary } from '@rootmap/core/contract';
import { useProject } from '../api/queries.js';
import { MapPicture } from '../pictures/map-picture.js';

const MOST_SHOWN = 5;

/** Maps of the project that was opened last, each a step away. */
export function LastMaps({ project }: { project: ProjectSummary }) {
  const { data } = useProject(project.key);
  const maps = data?.maps.slice(0, MOST_SHOWN) ?? [];
  if (maps.length === 0) return null;
  return (
    <Box component="section" aria-labelledby="last-maps" sx={{ mt: 2 }}>
      <Typography variant="h2" id="last-maps" sx={{ mb: 1 }}>
        Maps of {project.title}
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: `repeat(auto-fill, minmax(190px, 1fr))`, gap: 1.5 }}>
        {maps.map((map) => (
          <Box
            key={map.relativePath}
            component={Link}
            to={`/p/${project.key}/maps/edit?map=${encodeURIComponent(map.relativePath)}`}
            sx={{
              display: 'block',
              color: 'var(--ink)',
              textDecoration: 'none',
              bgcolor: 'var(--sheet)',
              border: '1px solid var(--rule)',
              borderRadius: '6px',
              overflow: 'hidden',
              '&:hover': { borderColor: 'var(--spruce)' },
            }}
          >
            <MapPicture projectKey={project.key} map={map} height={72} />
            <Box sx={{ px: 1, py: 0.5, fontWeight: 650, fontSize: 13 }}>{map.title}</Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
