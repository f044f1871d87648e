import { type Grid, GRIDS, PAPERS, readScale, RESOLUTIONS, scaleText, type OwnPicture } from '@rootmap/core';
import { dataAddress } from './data-address.js';
import { mdiArrowExpandAll } from '@mdi/js';
import {
  Box,
  Button,
  Checkbox,
  FormControlLabel,
  IconButton,
  MenuItem,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Typography,
} from '@mui/material';
import { memo, useState } from 'react';
import { Icon } from '../../parts/icon.js';
import { NoteFields } from './note-fields.js';
import { PageChoice } from './page-choice.js';
import { SCALES, type Wish } from './page-wish.js';

interface Props {
  readonly wish: Wish;
  readonly set: (more: Partial<Wish>) => void;
  readonly attribution: string;
  /** Where the file goes; null: not known yet. */
  readonly folder: string | null;
  /** Sets a scale that shows all layers; null: it is not known where they are. */
  readonly onFit: (() => void) | null;
}

/** Everything that can be said of a page. */
export const PageFields = memo((props: Props) => (
  <>
    <PageChoice {...props} />
    <PaperFields {...props} />
    <MarkFields {...props} />
    <FileFields {...props} />
  </>
));

const PaperFields = ({ wish, set, onFit }: Props) => (
  <>
    <TextField size="small" label="Title" value={wish.title} onChange={(e) => set({ title: e.target.value })} />
    <Box sx={{ display: 'flex', gap: 1 }}>
      <TextField
        size="small"
        label="Scale"
        value={wish.typedScale}
        onChange={(e) => set({ typedScale: e.target.value })}
        error={readScale(wish.typedScale) === null}
        slotProps={{
          htmlInput: { list: 'print-scales', className: 'mono' },
          input: {
            endAdornment: onFit && (
              <IconButton
                size="small"
                edge="end"
                aria-label="A scale that shows all layers"
                title="A scale that shows all layers"
                onClick={onFit}
              >
                <Icon path={mdiArrowExpandAll} sx={{ fontSize: 17 }} />
              </IconButton>
            ),
          },
        }}
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
      {(['legend', 'bar', 'north', 'locator'] as const).map((k) => (
        <FormControlLabel
          key={k}
          control={<Checkbox size="small" checked={wish.has[k]} onChange={(e) => set({ has: { ...wish.has, [k]: e.target.checked } })} />}
          label={{ legend: 'Legend', bar: 'Scale bar', north: 'North arrow', locator: 'Map of the region' }[k]}
        />
      ))}
    </Box>
    {wish.has.legend && (
      <TextField
        select
        size="small"
        label="Columns of the legend"
        value={wish.legendColumns}
        onChange={(e) => set({ legendColumns: Number(e.target.value) as Wish['legendColumns'] })}
      >
        {[1, 2, 3].map((n) => (
          <MenuItem key={n} value={n}>
            {n}
          </MenuItem>
        ))}
      </TextField>
    )}
    <PictureField picture={wish.picture} onPicture={(picture) => set({ picture })} />
    <TextField select size="small" label="Lines of coordinates" value={wish.grid} onChange={(e) => set({ grid: e.target.value as Grid })}>
      {GRIDS.map((g) => (
        <MenuItem key={g} value={g}>
          {{ none: 'None', plane: 'Of the map’s CRS', degrees: 'Of degrees' }[g]}
        </MenuItem>
      ))}
    </TextField>
    <NoteFields notes={wish.notes} onNotes={(notes) => set({ notes })} />
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

/** Larger files are photographs, not marks. */
const LARGEST_PICTURE = 4 << 20;

/** A picture of one's own, such as the mark of an office. */
function PictureField({ picture, onPicture }: { picture: OwnPicture | null; onPicture: (picture: OwnPicture | null) => void }) {
  const [problem, setProblem] = useState<string | null>(null);
  const take = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    setProblem(null);
    if (!/^image\/(png|jpeg)$/.test(file.type)) return setProblem(`${file.name} is no PNG or JPEG picture. Choose another.`);
    if (file.size > LARGEST_PICTURE) return setProblem(`${file.name} is larger than 4 MiB. Make it smaller first.`);
    try {
      const { width, height } = await createImageBitmap(file);
      onPicture({ data: await dataAddress(file), aspect: width / height, width: picture?.width ?? 30 });
    } catch {
      setProblem(`${file.name} cannot be read as a picture. Choose another.`);
    }
  };
  return (
    <Box>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <Button component="label" size="small" variant="outlined">
          {picture ? 'Another picture' : 'A picture on it'}
          <input
            type="file"
            accept="image/png,image/jpeg"
            hidden
            aria-label="Picture on the page"
            onChange={(e) => void take(e.target.files?.[0])}
          />
        </Button>
        {picture && (
          <>
            <TextField
              size="small"
              label="Width, mm"
              type="number"
              value={picture.width}
              onChange={(e) => Number(e.target.value) > 0 && onPicture({ ...picture, width: Number(e.target.value) })}
              sx={{ width: 100 }}
            />
            <Button size="small" onClick={() => onPicture(null)}>
              Without
            </Button>
          </>
        )}
      </Box>
      {problem !== null && (
        <Typography role="alert" variant="body2" color="error">
          {problem}
        </Typography>
      )}
    </Box>
  );
}

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
    {wish.format === 'png' && (
      <FormControlLabel
        control={<Checkbox size="small" checked={wish.isBare} onChange={(e) => set({ isBare: e.target.checked })} />}
        label="Only the map, without the page around it"
      />
    )}
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
