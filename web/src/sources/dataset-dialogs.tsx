import type { ProjectView, SourcesView } from '@rootmap/core/contract';
import { ExportDialog } from '../exports/export-dialog.js';
import { RowsDialog } from '../rows/rows-dialog.js';
import { CrsDialog } from './crs-dialog.js';
import { CsvDialog } from './csv-dialog.js';
import type { DatasetRow } from './dataset-rows.js';
import { MapDialog } from './map-dialog.js';
import { OriginDialog } from './origin-dialog.js';
import { ShareDialog } from './share-dialog.js';

/** What can be done with a dataset, each in a dialog. */
export type DatasetAct = 'rows' | 'export' | 'share' | 'read' | 'map' | 'crs' | 'origin';

interface Props {
  readonly project: ProjectView;
  readonly sources: SourcesView | undefined;
  readonly row: DatasetRow;
  readonly act: DatasetAct | null;
  readonly onClose: () => void;
}

export function DatasetDialogs({ project, sources, row, act, onClose }: Props) {
  const { dataset: d } = row;
  switch (act) {
    case 'rows':
      return <RowsDialog projectKey={project.key} dataset={d.id} onClose={onClose} />;
    case 'export':
      return <ExportDialog project={project} dataset={d.id} name={d.name} crs={d.crs} isRaster={d.kind === 'raster'} onClose={onClose} />;
    case 'share':
      return <ShareDialog project={project} sources={sources} row={row} onClose={onClose} />;
    case 'read':
      return <CsvDialog project={project} row={row} onClose={onClose} />;
    case 'map':
      return <MapDialog project={project} ids={[d.id]} names={[d.name]} onClose={onClose} />;
    case 'crs':
      return <CrsDialog project={project} row={row} onClose={onClose} />;
    case 'origin':
      return <OriginDialog projectKey={project.key} row={row} onClose={onClose} />;
    case null:
      return null;
  }
}
