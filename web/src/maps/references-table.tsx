import { Box } from '@mui/material';
import { DataGrid, type GridColDef } from '@mui/x-data-grid';
import { useMemo } from 'react';
import { byCodePoint, isInOrder } from '@rootmap/core';
import type { LayerView, ProjectView } from '@rootmap/core/contract';
import { kindWord } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { STATE_COLOUR, STATE_WORD, Tether } from '../parts/tether.js';

interface Row {
  /** The layer's key, in letters that may stand in a selector. */
  readonly id: string;
  readonly layer: LayerView;
  readonly title: string;
  readonly mapTitle: string;
  readonly href: string;
  readonly resolved: string;
  readonly folder: string;
  readonly stored: string;
  readonly reach: string;
  readonly state: string;
}

/** Where each layer gets its data: as recorded, where that leads, in which form, and whether it is there. Rows are virtual. */
export function ReferencesTable({
  project,
  layers,
  showMap,
  marked,
  isNarrow = false,
  isGrouped,
  chosen,
  onChoose,
}: {
  project: ProjectView;
  layers: readonly LayerView[];
  showMap: boolean;
  marked: string | null;
  isNarrow?: boolean;
  /** By the folder that their data stands in. */
  isGrouped: boolean;
  /** Keys of the layers that something is to be done with. */
  chosen: ReadonlySet<string>;
  onChoose: (keys: ReadonlySet<string>) => void;
}) {
  const rows = useMemo(() => {
    const all = layers.map((l) => toRow(l, project));
    return isGrouped ? all.sort((a, b) => byCodePoint(a.folder, b.folder)) : all; // sorting is stable: within a folder all stays in order
  }, [layers, project, isGrouped]);
  const hasStyles = layers.some((l) => l.style !== null);
  const columns = useMemo(
    () =>
      COLUMNS.filter(
        ({ field }) =>
          (showMap || field !== 'mapTitle') &&
          (hasStyles || field !== 'style') &&
          (isGrouped ? field !== 'resolved' : field !== 'folder') &&
          !(isNarrow && NARROW_HIDES.has(field)),
      ),
    [showMap, hasStyles, isGrouped, isNarrow],
  );
  return (
    <DataGrid<Row>
      rows={rows}
      columns={[...columns]}
      rowHeight={32}
      columnHeaderHeight={34}
      disableRowSelectionOnClick
      disableColumnSorting={isGrouped}
      rowSpanning={isGrouped}
      checkboxSelection
      rowSelectionModel={{ type: 'include', ids: new Set([...chosen].map(rowId)) }}
      onRowSelectionModelChange={(model) =>
        onChoose(new Set(rows.filter((r) => model.ids.has(r.id) === (model.type === 'include')).map((r) => r.layer.key)))
      }
      getRowClassName={({ row }) => (row.layer.layer === marked ? 'marked' : '')}
      hideFooterSelectedRowCount
      hideFooter={rows.length <= 100}
      initialState={{ pagination: { paginationModel: { pageSize: 100 } } }}
      pageSizeOptions={[100]}
      showToolbar
      label="References"
      sx={{
        border: 0,
        borderTop: '1px solid var(--rule)',
        borderRadius: 0,
        bgcolor: 'var(--sheet)',
        '--DataGrid-containerBackground': 'var(--sheet)',
        fontSize: 13,
        '& .marked': { bgcolor: 'var(--spruce-wash)' },
      }}
      localeText={{ noRowsLabel: 'This map has no layer yet.' }}
    />
  );
}

/** The folder that a layer's data stands in, or was recorded in. */
export const folderOfLayer = (l: LayerView): string =>
  l.reach === 'service' ? 'services' : (l.recordedFolder ?? (l.shownResolved ?? '').replace(/\/?[^/]*$/, ''));

const rowId = encodeURIComponent;

function toRow(l: LayerView, project: ProjectView): Row {
  return {
    id: rowId(l.key),
    layer: l,
    title: l.title,
    mapTitle: project.maps.find((m) => m.path === l.map)?.title ?? '',
    href: l.href ?? 'no source recorded',
    resolved: l.shownResolved ?? 'nowhere',
    folder: folderOfLayer(l),
    stored: l.stored,
    reach: l.reach,
    state: STATE_WORD[l.state],
  };
}

const NARROW_HIDES = new Set(['resolved', 'kind', 'reach', 'style']);

/** Only the folder is said once for all of its rows. */
const alone: Pick<GridColDef<Row>, 'rowSpanValueGetter'> = { rowSpanValueGetter: (_, row) => row.id };

const COLUMNS: readonly GridColDef<Row>[] = [
  {
    field: 'folder',
    headerName: 'Folder of the data',
    width: 172,
    renderCell: ({ value }) => <PathText path={value === '' ? 'nowhere' : String(value)} most={24} />,
  },
  {
    ...alone,
    field: 'state',
    headerName: 'State',
    width: 116,
    renderCell: ({ row }) => (
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, height: '100%' }}>
        <Tether bond={row.layer} />
        <Box
          component="span"
          title={row.layer.detail ?? row.layer.reason ?? undefined}
          sx={{ color: isInOrder(row.layer.state) ? 'inherit' : STATE_COLOUR[row.layer.state] }}
        >
          {row.state}
        </Box>
      </Box>
    ),
  },
  { ...alone, field: 'title', headerName: 'Layer', width: 148 },
  { ...alone, field: 'mapTitle', headerName: 'Map', width: 112 },
  { ...alone, field: 'kind', headerName: 'Kind', width: 66, valueGetter: (_, row) => kindWord(row.layer.geometry) },
  {
    ...alone,
    field: 'href',
    headerName: 'As recorded',
    minWidth: 150,
    flex: 1,
    renderCell: ({ value }) => <PathText path={String(value)} most={200} />,
  },
  {
    ...alone,
    field: 'resolved',
    headerName: 'Leads to',
    minWidth: 150,
    flex: 1,
    renderCell: ({ value }) => <PathText path={String(value)} most={200} />,
  },
  { ...alone, field: 'stored', headerName: 'Stored', width: 80 },
  { ...alone, field: 'reach', headerName: 'Reach', width: 76 },
  {
    ...alone,
    field: 'style',
    headerName: 'Style file',
    width: 150,
    valueGetter: (_, { layer: { style } }) => (style ? `${style.isThere ? '' : 'adrift: '}${style.href}` : ''),
    renderCell: ({ row: { layer }, value }) => (
      <Box component="span" title={String(value)} sx={{ color: layer.style?.isThere === false ? STATE_COLOUR.adrift : 'inherit' }}>
        {value}
      </Box>
    ),
  },
];
