import { Box, Button, Stack, Typography } from '@mui/material';
import { Link } from 'react-router';
import type { ProjectSummary } from '@rootmap/core/contract';
import { usePlaces } from '../api/queries.js';
import { many } from '../parts/format.js';
import { Sheet, Tag } from '../parts/states.js';

/** The places by the names that people give them, and how many projects stand on each. */
export function PlacesNow({ projects }: { projects: readonly ProjectSummary[] }) {
  const places = usePlaces();
  return (
    <Sheet sx={{ p: 2 }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'center', mb: 0.5 }}>
        <Typography variant="h2">Places</Typography>
        <Button component={Link} to="/places" aria-label="Places: all of them">
          All
        </Button>
      </Stack>
      <Box component="ul" aria-label="Places" sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {(places.data ?? []).map((p) => (
          <Stack
            component="li"
            key={p.name}
            direction="row"
            useFlexGap
            spacing={1}
            sx={{ alignItems: 'center', flexWrap: 'wrap', py: 0.5, borderTop: '1px solid var(--rule)' }}
          >
            <Typography component="span" sx={{ fontWeight: 650 }}>
              {p.name}
            </Typography>
            <Box component="span" className="mono" sx={{ flex: 1, minWidth: 60 }}>
              {p.driveNames.join(', ')}
            </Box>
            <Typography component="span" variant="body2" color="text.secondary">
              {countOn(p.name, projects)}
            </Typography>
            {p.present ? <Tag tone="spruce">here</Tag> : <Tag tone="slate">absent</Tag>}
          </Stack>
        ))}
      </Box>
      {places.data?.length === 0 && (
        <Typography color="text.secondary">
          A place is a drive, a share or a stick that Root Map may use. Name the first one in Places.
        </Typography>
      )}
    </Sheet>
  );
}

function countOn(place: string, projects: readonly ProjectSummary[]): string {
  const n = projects.filter((p) => p.place === place).length;
  return n === 0 ? 'no project of the list' : many(n, 'project');
}
