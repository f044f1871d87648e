import { Box, ToggleButton, ToggleButtonGroup } from '@mui/material';
import { visuallyHidden } from '@mui/utils';
import { useSources } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { ErrorState } from '../parts/states.js';
import { useUrlState } from '../parts/use-url-state.js';
import { DatasetsView } from './datasets-view.js';
import { IntakeView } from './intake-view.js';
import { ServicesView } from '../services/services-view.js';
import { LinksView } from './links-view.js';

type View = 'datasets' | 'intake' | 'links' | 'services';

/** The data of the project: what is there, what comes in, what is linked. */
export function SourcesPage() {
  const project = useOpenProject();
  const sources = useSources(project.key);
  const [search, set] = useUrlState();
  const view = (search.get('view') as View | null) ?? 'datasets';
  return (
    <Box sx={{ height: '100%', boxSizing: 'border-box', p: 1.5, display: 'flex', flexDirection: 'column', gap: 1 }}>
      <Box component="h1" sx={visuallyHidden}>
        Sources
      </Box>
      <ToggleButtonGroup
        size="small"
        exclusive
        value={view}
        aria-label="View"
        onChange={(_, v: View | null) => {
          // What was dropped stays in the address, so that it is there again on the way back.
          if (v) set({ view: v === 'datasets' ? null : v, arrivals: search.get('arrivals') }, { step: true, afresh: true });
        }}
      >
        <ToggleButton value="datasets">Datasets</ToggleButton>
        <ToggleButton value="intake">Bring in</ToggleButton>
        <ToggleButton value="links">Links ({project.links.length})</ToggleButton>
        <ToggleButton value="services">Services ({project.services.length})</ToggleButton>
      </ToggleButtonGroup>
      {sources.isError && <ErrorState error={sources.error} onRetry={() => void sources.refetch()} />}
      <Box sx={{ flex: 1, minHeight: 0 }}>
        {view === 'intake' ? (
          sources.data && <IntakeView project={project} sources={sources.data} />
        ) : view === 'links' ? (
          <LinksView project={project} />
        ) : view === 'services' ? (
          <ServicesView project={project} />
        ) : (
          <DatasetsView project={project} sources={sources.data} />
        )}
      </Box>
    </Box>
  );
}
