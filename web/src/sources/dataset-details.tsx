import { Box, Button, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import type { ProjectView, SourcesView } from '@rootmap/core/contract';
import { bytes, dateTime, kindWord, many, number } from '../parts/format.js';
import { Fact } from '../parts/fact.js';
import { PathText } from '../parts/path-text.js';
import { Sheet } from '../parts/states.js';
import { findingsOf, type DatasetRow } from './dataset-rows.js';
import { CrsDialog } from './crs-dialog.js';
import { CsvDialog } from './csv-dialog.js';
import { ShareDialog } from './share-dialog.js';
import { MapDialog } from './map-dialog.js';
import { ExportDialog } from '../exports/export-dialog.js';
import { RowsDialog } from '../rows/rows-dialog.js';
import { usePreview } from '../pictures/use-preview.js';
import { FieldFacts } from './field-facts.js';
import { OriginDialog } from './origin-dialog.js';
import { SpatialIndexFact } from './spatial-index-fact.js';

const PreviewMap = lazy(() => import('../pictures/preview-map.js').then((m) => ({ default: m.PreviewMap })));

/** Formats whose CRS stands in a file beside them. */
const TAKES_PRJ = new Set(['shapefile', 'ascii-grid', 'image', 'csv']);

interface Props {
  readonly project: ProjectView;
  readonly sources: SourcesView | undefined;
  readonly row: DatasetRow | null;
}

/** What a dataset is, where it came from and who uses it, in plain words. */
export function DatasetDetails({ project, sources, row }: Props) {
  const [isEditing, setEditing] = useState(false);
  const [isAssigning, setAssigning] = useState(false);
  const [isSharing, setSharing] = useState(false);
  const [isReading, setReading] = useState(false);
  const [isMapping, setMapping] = useState(false);
  const [open, setOpen] = useState<'rows' | 'export' | null>(null);
  const [fieldsOf, setFieldsOf] = useState<string | null>(null);
  const isDrawn = (row?.dataset.kind === 'vector' || row?.dataset.kind === 'raster') && !!row.source?.bbox;
  const [isInProject, setInProject] = useState(false);
  const drawnIn = isInProject && row?.dataset.crs ? project.crs : null;
  usePreview(project.key, row?.dataset.id ?? '', drawnIn, isDrawn);
  if (!row)
    return (
      <Sheet sx={{ p: 2 }}>
        <Typography color="text.secondary">Choose a dataset to see its fields, its origin and what uses it.</Typography>
      </Sheet>
    );
  const { dataset: d, source: s } = row;
  const findings = findingsOf(row);
  const layers = project.maps.flatMap((m) =>
    m.layers.filter((l) => l.dataset === d.id).map((l) => ({ ...l, mapTitle: m.title, path: m.relativePath })),
  );
  return (
    <Sheet sx={{ p: 2, overflow: 'auto', display: 'flex', flexDirection: 'column', gap: 1.25 }}>
      <Typography variant="h2" className="mono" sx={{ overflowWrap: 'anywhere' }}>
        {d.name}
      </Typography>
      <PathText path={shownPath(project, d.id)} most={40} colour="var(--soft)" />
      {(d.kind === 'vector' || d.kind === 'raster') && project.id !== null && (
        <div>
          <Button size="small" variant="outlined" onClick={() => setMapping(true)}>
            Add to a map
          </Button>
        </div>
      )}
      {isDrawn && (
        <Suspense fallback={<Box sx={{ height: 212, flex: '0 0 auto' }} />}>
          <PreviewMap key={d.id} projectKey={project.key} dataset={d.id} name={d.name} crs={drawnIn} height={190} />
          {d.crs && project.crs && d.crs !== project.crs && (
            <FormControlLabel
              control={<Checkbox size="small" checked={isInProject} onChange={(e) => setInProject(e.target.checked)} />}
              label={`Draw it in the project's ${project.crs}`}
              sx={{ '& .MuiFormControlLabel-label': { fontSize: 13 } }}
            />
          )}
        </Suspense>
      )}
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
            <Button size="small" onClick={() => setReading(true)}>
              Read it otherwise
            </Button>
          </div>
        </Fact>
      )}
      <Fact name="CRS">
        {d.crs
          ? `${s?.crsName ?? ''} ${s?.crsName === d.crs ? '' : d.crs}`
          : d.kind === 'table'
            ? 'a table has none'
            : 'nobody knows: its file tells none'}
        {s?.crsOtherName && <div>The same but for the name: its file calls it {s.crsOtherName}.</div>}
        {s?.crsFacts && (
          <Box sx={{ color: 'var(--soft)' }}>
            {[s.crsFacts.method, s.crsFacts.datum && `datum ${s.crsFacts.datum}`, s.unit && `in ${plural(s.unit)}`]
              .filter(Boolean)
              .join(', ')}
          </Box>
        )}
        {s?.crsArea && <Box sx={{ color: 'var(--soft)' }}>{s.crsArea}</Box>}
        {d.crs === null && d.link === null && TAKES_PRJ.has(d.format) && d.kind !== 'table' && (
          <div>
            <Button size="small" variant="contained" onClick={() => setAssigning(true)}>
              Find its CRS
            </Button>
          </div>
        )}
      </Fact>
      {s?.bbox && (
        <Fact name="Extent">
          <span className="mono">{s.bbox.map((n) => number(Math.round(n * 1000) / 1000)).join('  ')}</span>
          {s.unit ? ` ${plural(s.unit)}` : ''}
        </Fact>
      )}
      <Fact name="Size">
        {bytes(d.bytes)}
        {s ? `, changed ${dateTime(s.modifiedMs)}` : ''}
      </Fact>
      {s && d.format === 'shapefile' && d.link === null && project.id !== null && <SpatialIndexFact project={project} source={s} />}
      {s && s.fields.length > 0 && (
        <Fact name="Fields">
          <FieldFacts
            projectKey={project.key}
            dataset={d.id}
            fields={s.fields}
            isOpen={fieldsOf === d.id}
            onOpen={() => setFieldsOf(d.id)}
          />
          {d.kind !== 'raster' && (
            <div>
              <Button size="small" onClick={() => setOpen('rows')}>
                See its rows
              </Button>
              <Button size="small" onClick={() => setOpen('export')}>
                Export it
              </Button>
            </div>
          )}
        </Fact>
      )}
      <Fact name="Origin">
        {s?.origin ? (
          <>
            <div>{s.origin.publisher || 'publisher not told'}</div>
            <div>{s.origin.licence || 'licence not told'}</div>
            {s.origin.address && <PathText path={s.origin.address} most={30} />}
            {s.origin.fetched && <div>fetched {s.origin.fetched}</div>}
          </>
        ) : (
          'not written down'
        )}
        <div>
          <Button size="small" onClick={() => setEditing(true)}>
            Write its origin down
          </Button>
        </div>
      </Fact>
      <Fact name="Whose">
        {s?.owner ?? ''}
        {project.id !== null && d.format !== 'opaque' && (
          <div>
            <Button size="small" onClick={() => setSharing(true)}>
              {d.link === null ? 'Share it with other projects' : "Make it this project's own"}
            </Button>
          </div>
        )}
      </Fact>
      <Fact name="Used by">
        {layers.length === 0
          ? 'no layer of this project'
          : layers.map((l) => (
              <div key={l.key}>
                <Link to={`../maps?map=${encodeURIComponent(l.path)}&layer=${encodeURIComponent(l.layer)}`} relative="path">
                  {l.title}
                </Link>{' '}
                <Box component="span" sx={{ color: 'var(--soft)' }}>
                  in {l.mapTitle}
                </Box>
              </div>
            ))}
      </Fact>
      {open === 'rows' && <RowsDialog projectKey={project.key} dataset={d.id} onClose={() => setOpen(null)} />}
      {open === 'export' && <ExportDialog project={project} dataset={d.id} name={d.name} crs={d.crs} onClose={() => setOpen(null)} />}
      {isSharing && <ShareDialog project={project} sources={sources} row={row} onClose={() => setSharing(false)} />}
      {isReading && <CsvDialog project={project} row={row} onClose={() => setReading(false)} />}
      {isMapping && <MapDialog project={project} ids={[d.id]} names={[d.name]} onClose={() => setMapping(false)} />}
      {isAssigning && <CrsDialog project={project} row={row} onClose={() => setAssigning(false)} />}
      {isEditing && <OriginDialog projectKey={project.key} row={row} onClose={() => setEditing(false)} />}
    </Sheet>
  );
}

const plural = (unit: string): string => (unit.endsWith('foot') ? unit.replace(/foot$/, 'feet') : unit.endsWith('s') ? unit : `${unit}s`);

/** As people call it: by the drive name of the root, where it is inside. */
const shownPath = (project: ProjectView, path: string): string =>
  path.startsWith(`${project.root}/`) ? `${project.shownRoot}${path.slice(project.root.length)}` : path;
