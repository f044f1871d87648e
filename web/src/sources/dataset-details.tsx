import { Box, Button, Stack, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { lazy, Suspense, useState } from 'react';
import type { ProjectView, SourcesView } from '@rootmap/core/contract';
import { bytes, dateTime, kindWord, many } from '../parts/format.js';
import { Fact } from '../parts/fact.js';
import { PathMenu } from '../parts/path-menu.js';
import { PathText } from '../parts/path-text.js';
import { Sheet } from '../parts/states.js';
import { DatasetNotes } from '../notes/dataset-notes.js';
import { usePreview } from '../pictures/use-preview.js';
import { DatasetDialogs, type DatasetAct } from './dataset-dialogs.js';
import { CrsFact, ExtentFact, FieldsFact, OriginFact, UsedByFact } from './dataset-facts.js';
import { findingsOf, type DatasetRow } from './dataset-rows.js';
import { SpatialIndexFact } from './spatial-index-fact.js';

const PreviewMap = lazy(() => import('../pictures/preview-map.js').then((m) => ({ default: m.PreviewMap })));

interface Props {
  readonly project: ProjectView;
  readonly sources: SourcesView | undefined;
  readonly row: DatasetRow | null;
}

/** What a dataset is, where it came from and who uses it, in plain words. */
export function DatasetDetails({ project, sources, row }: Props) {
  const [act, setAct] = useState<DatasetAct | null>(null);
  if (!row)
    return (
      <Sheet sx={{ p: 2 }}>
        <Typography color="text.secondary">Choose a dataset to see its fields, its origin and what uses it.</Typography>
      </Sheet>
    );
  const { dataset: d, source: s } = row;
  const findings = findingsOf(row);
  return (
    <Sheet sx={{ p: 2, overflow: 'auto', display: 'flex', flexDirection: 'column', gap: 1.25 }}>
      <Typography variant="h2" className="mono" sx={{ overflowWrap: 'anywhere' }}>
        {d.name}
      </Typography>
      <PathText path={shownPath(project, d.id)} most={40} colour="var(--soft)" />
      <Acts project={project} row={row} onMap={() => setAct('map')} />
      <Picture project={project} row={row} />
      {findings.map((f) => (
        <Box
          key={f.message}
          sx={{ borderLeft: '3px solid var(--ochre)', bgcolor: 'var(--ochre-wash)', px: 1.25, py: 0.5, borderRadius: '3px', fontSize: 13 }}
        >
          {f.message}
        </Box>
      ))}
      <Fact name="Is">
        {kindWord(d.geometry) || d.kind}, {d.format}
        {d.count === null ? '' : `, ${many(d.count, 'record')}`}
      </Fact>
      {d.format === 'csv' && d.link === null && (
        <Fact name="Read as">
          {d.kind === 'vector' ? 'points, by two of its columns' : 'a table without places'}
          <div>
            <Button size="small" onClick={() => setAct('read')}>
              Read it otherwise
            </Button>
          </div>
        </Fact>
      )}
      <CrsFact row={row} onAssign={() => setAct('crs')} />
      <ExtentFact row={row} />
      <Fact name="Size">
        {bytes(d.bytes)}
        {s ? `, changed ${dateTime(s.modifiedMs)}` : ''}
      </Fact>
      {s && d.format === 'shapefile' && d.link === null && project.id !== null && <SpatialIndexFact project={project} source={s} />}
      {d.kind === 'raster' && (
        <Fact name="Pixels">
          <Button size="small" onClick={() => setAct('export')}>
            Export it
          </Button>
        </Fact>
      )}
      <FieldsFact projectKey={project.key} row={row} onRows={() => setAct('rows')} onExport={() => setAct('export')} />
      <OriginFact row={row} onEdit={() => setAct('origin')} />
      {s && (
        <Fact name="Notes">
          <DatasetNotes projectKey={project.key} dataset={d.id} />
        </Fact>
      )}
      <Fact name="Whose">
        {s?.owner ?? ''}
        {project.id !== null && d.format !== 'opaque' && (
          <div>
            <Button size="small" onClick={() => setAct('share')}>
              {d.link === null ? 'Share it with other projects' : "Make it this project's own"}
            </Button>
          </div>
        )}
      </Fact>
      <UsedByFact project={project} row={row} />
      <DatasetDialogs project={project} sources={sources} row={row} act={act} onClose={() => setAct(null)} />
    </Sheet>
  );
}

function Acts({ project, row: { dataset: d }, onMap }: { project: ProjectView; row: DatasetRow; onMap: () => void }) {
  return (
    <Stack direction="row" spacing={1} useFlexGap sx={{ flexWrap: 'wrap' }}>
      {(d.kind === 'vector' || d.kind === 'raster') && project.id !== null && (
        <Button size="small" variant="outlined" onClick={onMap}>
          Bring into map
        </Button>
      )}
      <PathMenu project={project} path={d.id.replace(/#[^/]*$/, '')} />
    </Stack>
  );
}

/** The room that the small map takes. */
const ROOM = { height: 212, flex: '0 0 auto' } as const;

/** A small map of it, in its own CRS or in that of the project. */
function Picture({ project, row: { dataset: d, source } }: { project: ProjectView; row: DatasetRow }) {
  const isPicture = d.kind === 'vector' || d.kind === 'raster';
  const isDrawn = isPicture && !!source?.bbox;
  const [isInProject, setInProject] = useState(false);
  const drawnIn = isInProject && d.crs ? project.crs : null;
  usePreview(project.key, d.id, drawnIn, isDrawn);
  if (isPicture && !source) return <Box sx={ROOM} />; // so that nothing jumps when it is known
  if (!isDrawn) return null;
  return (
    <Suspense fallback={<Box sx={ROOM} />}>
      <PreviewMap key={d.id} projectKey={project.key} dataset={d.id} name={d.name} crs={drawnIn} height={190} />
      {d.crs && project.crs && d.crs !== project.crs && (
        <FormControlLabel
          control={<Checkbox size="small" checked={isInProject} onChange={(e) => setInProject(e.target.checked)} />}
          label={`Draw it in the project's ${project.crs}`}
          sx={{ '& .MuiFormControlLabel-label': { fontSize: 13 } }}
        />
      )}
    </Suspense>
  );
}

/** As people call it: by the drive name of the root, where it is inside. */
const shownPath = (project: ProjectView, path: string): string =>
  path.startsWith(`${project.root}/`) ? `${project.shownRoot}${path.slice(project.root.length)}` : path;
