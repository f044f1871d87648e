import { Box, Button, Stack, Typography } from '@mui/material';
import { useState } from 'react';
import type { GeodatabaseView, ProjectView } from '@rootmap/core/contract';
import { useGeodatabases } from '../api/queries.js';
import { ExportDialog } from '../exports/export-dialog.js';
import { useOpenProject } from '../frame/use-project.js';
import { EmptyState, ErrorState, Waiting } from '../parts/states.js';
import { RowsDialog } from '../rows/rows-dialog.js';
import { ContainerCard } from './container-card.js';
import { ImportDialog } from './import-dialog.js';
import { NewGeodatabaseDialog } from './new-geodatabase-dialog.js';
import { WorkingDialog } from './working-dialog.js';
import { TableActDialog, type TableAct } from './table-act-dialog.js';
import { useUrlState } from '../parts/use-url-state.js';

/** What is done with a table or a whole container. */
interface Acting {
  readonly container: GeodatabaseView;
  readonly act: TableAct;
}

/** The containers of the project: what is in each, which one is worked in, what can be brought in. */
export function GeodatabasesPage() {
  const project = useOpenProject();
  const view = useGeodatabases(project.key);
  const [search, set] = useUrlState();
  const [making, setMaking] = useState(false);
  const [importing, setImporting] = useState<string | null>(null);
  const [working, setWorking] = useState<string | null>(null);
  const [acting, setActing] = useState<Acting | null>(null);
  const rows = search.get('rows');
  const onAct = (container: GeodatabaseView, act: TableAct): void =>
    act.action === 'rows' ? set({ rows: act.table.id }, { step: true }) : setActing({ container, act });
  const make = (
    <Button variant="contained" onClick={() => setMaking(true)} disabled={project.id === null}>
      Make a geodatabase
    </Button>
  );
  if (view.isError) return <ErrorState error={view.error} onRetry={() => void view.refetch()} />;
  if (!view.data) return <Waiting what="Looking into the geodatabases…" />;
  const { containers, working: named, isWorkingThere, maps } = view.data;
  const adrift = maps.filter((m) => m.href !== null && m.path === null);
  return (
    <Box sx={{ height: '100%', boxSizing: 'border-box', overflow: 'auto', p: 1.5 }}>
      <Stack direction="row" sx={{ alignItems: 'center', mb: 1.5, gap: 1.5 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Geodatabases
        </Typography>
        {containers.length > 0 && make}
      </Stack>
      {named !== null && !isWorkingThere && (
        <Box
          role="alert"
          sx={{ borderLeft: '4px solid var(--plum)', bgcolor: 'var(--plum-wash)', px: 1.5, py: 1, mb: 1.5, borderRadius: 1 }}
        >
          The project works in <span className="mono">{named}</span>, which is not there. Choose another one below, or make it again.
        </Box>
      )}
      {adrift.map((m) => (
        <Box
          key={m.map}
          role="alert"
          sx={{ borderLeft: '4px solid var(--plum)', bgcolor: 'var(--plum-wash)', px: 1.5, py: 1, mb: 1.5, borderRadius: 1 }}
        >
          {m.title} works in <span className="mono">{m.href}</span>, which is not there. Press Work in it at the one that it should use.
        </Box>
      ))}
      {containers.length === 0 ? (
        <EmptyState title="No geodatabase yet" action={make}>
          One file that holds many tables: nothing to lose beside it, and room past the limits of older formats. Make one, then bring
          datasets in.
        </EmptyState>
      ) : (
        <Stack spacing={1.5}>
          {containers.map((c) => (
            <ContainerCard
              key={c.path}
              container={c}
              project={project}
              isOpen={search.get('open') === null ? c.isWorking || containers.length === 1 : search.get('open') === c.shownPath}
              onOpen={() => set({ open: c.shownPath })}
              onImport={() => setImporting(c.shownPath)}
              onAct={(act) => onAct(c, act)}
              maps={maps.filter((m) => m.path === c.path).map((m) => m.title)}
              onWorkHere={() => setWorking(c.shownPath)}
            />
          ))}
        </Stack>
      )}
      {making && <NewGeodatabaseDialog project={project} onClose={() => setMaking(false)} onMade={(path) => set({ open: path })} />}
      {importing !== null && <ImportDialog project={project} into={importing} onClose={() => setImporting(null)} />}
      {rows !== null && <RowsDialog projectKey={project.key} dataset={rows} onClose={() => set({ rows: null }, { step: true })} />}
      {acting && <ActDialog project={project} {...acting} containers={containers} onClose={() => setActing(null)} />}
      {working !== null && (
        <WorkingDialog project={project} path={working} maps={maps} isProjects={working === named} onClose={() => setWorking(null)} />
      )}
    </Box>
  );
}

interface ActProps extends Acting {
  readonly project: ProjectView;
  readonly containers: readonly GeodatabaseView[];
  readonly onClose: () => void;
}

function ActDialog({ project, container, containers, act, onClose }: ActProps) {
  if (act.action !== 'export')
    return <TableActDialog project={project} container={container} containers={containers} act={act} onClose={onClose} />;
  const { id, name, crs, kind } = act.table;
  return <ExportDialog project={project} dataset={id} name={name} crs={crs} isRaster={kind === 'raster'} onClose={onClose} />;
}
