import { type Grid, GRIDS, PAPERS, readScale, scaleText } from '@rootmap/core';
import { Box, Checkbox, FormControlLabel, MenuItem, TextField, ToggleButton, ToggleButtonGroup } from '@mui/material';
import { PageChoice } from './page-choice.js';
import { RESOLUTIONS, SCALES, type Wish } from './page-wish.js';

interface Props {
  readonly wish: Wish;
  readonly set: (more: Partial<Wish>) => void;
  readonly attribution: string;
  /** Where the file goes; null: not known yet. */
  readonly folder: string | null;
}

/** Everything that can be said of a page. */
export const PageFields = (props: Props) => (
  <>
    <PageChoice {...props} />
    <PaperFields {...props} />
    <MarkFields {...props} />
    <FileFields {...props} />
  </>
);

const PaperFields = ({ wish, set }: Props) => (
  <>
    <TextField size="small" label="Title" value={wish.title} onChange={(e) => set({ title: e.target.value })} />
    <Box sx={{ display: 'flex', gap: 1 }}>
      <TextField
        size="small"
        label="Scale"
        value={wish.typedScale}
        onChange={(e) => set({ typedScale: e.target.value })}
        error={readScale(wish.typedScale) === null}
        slotProps={{ htmlInput: { list: 'print-scales', className: 'mono' } }}
        sx={{ flex: 1 }}
      />
      <datalist id="print-scales">
        {SCALES.map((s) => (
          <option key={s} value={scaleText(s)} />
        ))}
      </datalist>
      <TextField
        select
        size="small"
        label="Paper"
        value={wish.paper}
        onChange={(e) => set({ paper: e.target.value as Wish['paper'] })}
        sx={{ width: 90 }}
      >
        {Object.keys(PAPERS).map((p) => (
          <MenuItem key={p} value={p}>
            {p}
          </MenuItem>
        ))}
      </TextField>
    </Box>
  </>
);

const MarkFields = ({ wish, set, attribution }: Props) => (
  <>
    <ToggleButtonGroup
      exclusive
      size="small"
      value={wish.isWide}
      aria-label="Orientation"
      onChange={(_, v: boolean | null) => v !== null && set({ isWide: v })}
    >
      <ToggleButton value={true}>Wide</ToggleButton>
      <ToggleButton value={false}>Upright</ToggleButton>
    </ToggleButtonGroup>
    <Box>
      {(['legend', 'bar', 'north'] as const).map((k) => (
        <FormControlLabel
          key={k}
          control={<Checkbox size="small" checked={wish.has[k]} onChange={(e) => set({ has: { ...wish.has, [k]: e.target.checked } })} />}
          label={{ legend: 'Legend', bar: 'Scale bar', north: 'North arrow' }[k]}
        />
      ))}
    </Box>
    <TextField select size="small" label="Lines of coordinates" value={wish.grid} onChange={(e) => set({ grid: e.target.value as Grid })}>
      {GRIDS.map((g) => (
        <MenuItem key={g} value={g}>
          {{ none: 'None', plane: 'Of the map’s CRS', degrees: 'Of degrees' }[g]}
        </MenuItem>
      ))}
    </TextField>
    <TextField
      size="small"
      multiline
      maxRows={4}
      label="Text on the map"
      value={wish.note}
      onChange={(e) => set({ note: e.target.value })}
    />
    <TextField
      size="small"
      multiline
      maxRows={3}
      label="Attribution"
      value={attribution}
      onChange={(e) => set({ attribution: e.target.value })}
    />
  </>
);

const FileFields = ({ wish, set, folder }: Props) => (
  <>
    <Box sx={{ display: 'flex', gap: 1 }}>
      <TextField
        select
        size="small"
        label="As"
        value={wish.format}
        onChange={(e) => set({ format: e.target.value as Wish['format'] })}
        sx={{ width: 90 }}
      >
        <MenuItem value="pdf">PDF</MenuItem>
        <MenuItem value="svg">SVG</MenuItem>
        <MenuItem value="png">PNG</MenuItem>
      </TextField>
      <TextField
        select
        size="small"
        label="Dots per inch"
        value={wish.dpi}
        onChange={(e) => set({ dpi: Number(e.target.value) as Wish['dpi'] })}
        sx={{ width: 120 }}
      >
        {RESOLUTIONS.map((r) => (
          <MenuItem key={r} value={r}>
            {r}
          </MenuItem>
        ))}
      </TextField>
    </Box>
    <TextField
      size="small"
      label="File"
      value={wish.name}
      onChange={(e) => set({ name: e.target.value })}
      slotProps={{
        htmlInput: { className: 'mono' },
        input: {
          startAdornment: <span className="mono">{folder ?? '…'}/</span>,
          endAdornment: <span className="mono">.{wish.format}</span>,
        },
      }}
    />
  </>
);
