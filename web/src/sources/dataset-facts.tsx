import { Box, Button } from '@mui/material';
import { useState } from 'react';
import { EPSG_CODE } from '@rootmap/core';
import { Link } from 'react-router';
import type { ProjectView } from '@rootmap/core/contract';
import { Fact } from '../parts/fact.js';
import { number, units } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import type { DatasetRow } from './dataset-rows.js';
import { FieldFacts } from './field-facts.js';

/** Formats whose CRS stands in a file beside them. */
const TAKES_PRJ = new Set(['shapefile', 'ascii-grid', 'image', 'csv']);

/** Its CRS in words, where it is used, and the way to one where its file tells none. */
export const CrsFact = ({ row: { dataset: d, source: s }, onAssign }: { row: DatasetRow; onAssign: () => void }) => (
  <Fact name="CRS">
    {d.crs
      ? `${s?.crsName ?? ''} ${s?.crsName === d.crs ? '' : d.crs}`
      : d.kind === 'table'
        ? 'a table has none'
        : 'nobody knows: its file tells none'}
    {s?.crsOtherName && <div>The same but for the name: its file calls it {s.crsOtherName}.</div>}
    {s?.crsFacts && (
      <Box sx={{ color: 'var(--soft)' }}>
        {[s.crsFacts.method, s.crsFacts.datum && `datum ${s.crsFacts.datum}`, s.unit && `in ${units(s.unit)}`].filter(Boolean).join(', ')}
      </Box>
    )}
    {s?.crsIsOwn && <Box sx={{ color: 'var(--soft)' }}>No code is registered for it; it is computed from its definition.</Box>}
    {s?.crsArea && <Box sx={{ color: 'var(--soft)' }}>{s.crsArea}</Box>}
    {(d.crs === null || !EPSG_CODE.test(d.crs)) && !s?.crsIsOwn && d.link === null && TAKES_PRJ.has(d.format) && d.kind !== 'table' && (
      <div>
        <Button size="small" variant="contained" onClick={onAssign}>
          Find its CRS
        </Button>
      </div>
    )}
  </Fact>
);

export function ExtentFact({ row: { source } }: { row: DatasetRow }) {
  if (!source?.bbox) return null;
  return (
    <Fact name="Extent">
      <span className="mono">{source.bbox.map((n) => number(Math.round(n * 1000) / 1000)).join('  ')}</span>
      {source.unit ? ` ${units(source.unit)}` : ''}
    </Fact>
  );
}

interface FieldsProps {
  readonly projectKey: string;
  readonly row: DatasetRow;
  readonly onRows: () => void;
  readonly onExport: () => void;
}

/** Its fields with their values, once they are asked for. */
export function FieldsFact({ projectKey, row: { dataset: d, source: s }, onRows, onExport }: FieldsProps) {
  const [fieldsOf, setFieldsOf] = useState<string | null>(null);
  if (!s || s.fields.length === 0) return null;
  return (
    <Fact name="Fields">
      <FieldFacts projectKey={projectKey} dataset={d.id} fields={s.fields} isOpen={fieldsOf === d.id} onOpen={() => setFieldsOf(d.id)} />
      {d.kind !== 'raster' && (
        <div>
          <Button size="small" onClick={onRows}>
            See its rows
          </Button>
          <Button size="small" onClick={onExport}>
            Export it
          </Button>
        </div>
      )}
    </Fact>
  );
}

/** Where it came from, as far as somebody wrote it down. */
export const OriginFact = ({ row: { source: s }, onEdit }: { row: DatasetRow; onEdit: () => void }) => (
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
      <Button size="small" onClick={onEdit}>
        Write its origin down
      </Button>
    </div>
  </Fact>
);

/** The layers that draw it. */
export function UsedByFact({ project, row: { dataset: d } }: { project: ProjectView; row: DatasetRow }) {
  const layers = project.maps.flatMap((m) =>
    m.layers.filter((l) => l.dataset === d.id).map((l) => ({ ...l, mapTitle: m.title, path: m.relativePath })),
  );
  return (
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
  );
}
