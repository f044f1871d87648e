import { Box, Button, Stack, Tab, Tabs, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { MapView, ProjectView } from '@rootmap/core/contract';
import { writeLayerTable } from '@rootmap/core';
import { useOpenProject } from '../frame/use-project.js';
import { sideBySide } from '../parts/side-by-side.js';
import { bytes, many } from '../parts/format.js';
import { saveText } from '../parts/save-text.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, Sheet, Tag } from '../parts/states.js';
import { useUrlState } from '../parts/use-url-state.js';
import { AllMapsCard, MapCard, type MapAct } from './map-card.js';
import { MapActDialog } from './map-act-dialog.js';
import { NewMapDialog } from './new-map-dialog.js';
import { ReferencesPanel } from './references-panel.js';
import { RehearsalPanel } from './rehearse/rehearsal-panel.js';

type Panel = 'references' | 'rehearse';

/** The maps of the project, and the references of one of them or of all; what a move would do to them. */
export function MapsPage() {
  const project = useOpenProject();
  const navigate = useNavigate();
  const [search, set] = useUrlState();
  const [acting, setActing] = useState<{ map: MapView; act: Exclude<MapAct, 'table'> } | null>(null);
  const [isNew, setNew] = useState(false);
  useEffect(() => void import('./edit/map-editor-page.js'), []); // so that the first map that is opened is not waited for
  const wanted = search.get('map');
  const panel = (search.get('panel') as Panel | null) ?? 'references';
  const map = project.maps.find((m) => m.relativePath === wanted) ?? null;
  const turnTo = (chosen: string | null, p: Panel): void =>
    set({ map: chosen, panel: p === 'references' ? null : p }, { step: true, afresh: true });
  const choose = (path: string | null): void => turnTo(path, panel);
  const show = (p: Panel): void => turnTo(map?.relativePath ?? null, p);
  const act = (m: MapView, a: MapAct): void => {
    if (a !== 'table') return setActing({ map: m, act: a });
    const rows = m.layers.map((l) => ({ title: l.title, path: (l.shownResolved ?? l.href ?? '').replace(/#[^/]*$/, ''), table: l.table }));
    saveText(`${m.relativePath.replace(/^.*\//, '').replace(/\.owc\.json$/, '')}_layers.csv`, writeLayerTable(rows), 'text/csv');
  };
  const opened = (path: string): void => void navigate(`edit?map=${encodeURIComponent(path)}`);
  const dialogs = (
    <>
      {isNew && <NewMapDialog project={project} onMade={opened} onClose={() => setNew(false)} />}
      {acting && <MapActDialog project={project} map={acting.map} act={acting.act} onClose={() => setActing(null)} />}
    </>
  );
  if (project.maps.length === 0 && project.damaged.length === 0)
    return (
      <>
        <EmptyState
          title="No map here yet"
          action={
            <Button variant="contained" onClick={() => setNew(true)}>
              Make a map
            </Button>
          }
        >
          A map is a small file (.owc.json) that points at data and says how it is drawn. It holds no data itself.
        </EmptyState>
        {dialogs}
      </>
    );
  return (
    <Box sx={{ ...sideBySide('280px minmax(0, 1fr)'), gap: 1.5, p: 1.5, boxSizing: 'border-box' }}>
      <Stack spacing={1} sx={{ overflow: 'auto' }} role="group" aria-label="Maps">
        <Button variant="contained" onClick={() => setNew(true)} sx={{ flex: 'none' }}>
          Make a map
        </Button>
        <AllMapsCard
          detail={`${many(project.maps.length, 'map')}, ${many(
            project.maps.reduce((n, m) => n + m.layers.length, 0),
            'layer',
          )}`}
          isChosen={map === null}
          onChoose={() => choose(null)}
        />
        {project.maps.map((m) => (
          <MapCard
            key={m.path}
            project={project}
            map={m}
            isChosen={m === map}
            onChoose={() => choose(m.relativePath)}
            onAct={(a) => act(m, a)}
          />
        ))}
        {project.damaged.map((d) => (
          <Box key={d.path} role="alert" sx={{ p: 1.5, borderRadius: 1, bgcolor: 'var(--plum-wash)', overflowWrap: 'anywhere' }}>
            <Tag tone="plum">damaged</Tag> {d.message}
          </Box>
        ))}
      </Stack>
      <Shown project={project} map={map} panel={panel} layer={search.get('layer')} onPanel={show} />
      {dialogs}
    </Box>
  );
}

interface ShownProps {
  readonly project: ProjectView;
  /** Null: all maps. */
  readonly map: MapView | null;
  readonly panel: Panel;
  readonly layer: string | null;
  readonly onPanel: (panel: Panel) => void;
}

/** The references of what was chosen, or the rehearsal of a move. */
const Shown = ({ project, map, panel, layer, onPanel }: ShownProps) => (
  <Sheet sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
    <Stack direction="row" spacing={1} sx={{ p: 1.5, pb: 0, alignItems: 'center' }}>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography variant="h1">{map ? map.title : 'All maps'}</Typography>
        {map && (
          <Typography variant="body2" color="text.secondary" component="div">
            <PathText path={map.relativePath} most={50} /> · {bytes(map.bytes)} · {many(map.layers.length, 'layer')}
          </Typography>
        )}
      </Box>
      <Tabs value={panel} onChange={(_, v: Panel) => onPanel(v)} aria-label="What is shown">
        <Tab value="references" label="References" />
        <Tab value="rehearse" label="Rehearse a move" />
      </Tabs>
    </Stack>
    {panel === 'rehearse' ? (
      <RehearsalPanel key={map?.path ?? 'all'} project={project} map={map?.relativePath ?? null} hasUnsaved={false} />
    ) : (
      <ReferencesPanel key={map?.path ?? 'all'} project={project} map={map} layer={layer} />
    )}
  </Sheet>
);
