import { MenuItem, Select, Stack } from '@mui/material';
import { kindWord } from '../parts/format.js';
import { findingsOf, type DatasetRow } from './dataset-rows.js';
import { useUrlState } from '../parts/use-url-state.js';

/** What the table can be narrowed by, each with the values that rows have. */
const FILTERS: readonly {
  readonly name: string;
  readonly label: string;
  readonly valueOf: (row: DatasetRow) => readonly string[];
}[] = [
  { name: 'kind', label: 'Any kind', valueOf: ({ dataset: d }) => [kindWord(d.geometry) || d.kind] },
  { name: 'crs', label: 'Any CRS', valueOf: ({ dataset: d }) => [d.crs ?? (d.kind === 'table' ? 'a table' : 'no CRS')] },
  { name: 'owner', label: 'Any owner', valueOf: ({ source: s }) => (s ? [s.owner] : []) },
  {
    name: 'state',
    label: 'Any state',
    valueOf: (r) => [
      findingsOf(r).length > 0 ? 'with findings' : 'without findings',
      r.source && r.source.usedBy > 0 ? 'in a layer' : 'in no layer',
      r.source?.origin ? 'origin known' : 'origin not known',
    ],
  },
];

export const narrowed = (rows: readonly DatasetRow[], search: URLSearchParams): readonly DatasetRow[] => {
  const wanted = FILTERS.flatMap((f) => (search.has(f.name) ? [{ f, value: search.get(f.name)! }] : []));
  return wanted.length === 0 ? rows : rows.filter((r) => wanted.every(({ f, value }) => f.valueOf(r).includes(value)));
};

export function DatasetFilters({ rows }: { rows: readonly DatasetRow[] }) {
  const [search, set] = useUrlState();
  return (
    <Stack direction="row" sx={{ gap: 0.5, flexWrap: { xs: 'wrap', md: 'nowrap' } }}>
      {FILTERS.map(({ name, label, valueOf }) => {
        const chosen = search.get(name) ?? '';
        const values = [...new Set(rows.flatMap(valueOf))].sort();
        if (chosen !== '' && !values.includes(chosen)) values.push(chosen);
        return (
          <Select
            key={name}
            value={chosen}
            displayEmpty
            size="small"
            onChange={(e) => set({ [name]: e.target.value })}
            inputProps={{ 'aria-label': label.replace('Any', 'Which') }}
            sx={{ height: 34, fontSize: 13, maxWidth: 130, bgcolor: chosen === '' ? undefined : 'var(--spruce-wash)' }}
          >
            <MenuItem value="">{label}</MenuItem>
            {values.map((v) => (
              <MenuItem key={v} value={v}>
                {v}
              </MenuItem>
            ))}
          </Select>
        );
      })}
    </Stack>
  );
}
