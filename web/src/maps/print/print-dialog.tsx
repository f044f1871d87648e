import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  LinearProgress,
  MenuItem,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Typography,
} from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { DEFAULT_NAMING, proposeName } from '@rootmap/core';
import type { MapDraft, ProjectView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { useSources } from '../../api/queries.js';
import { inRoot } from '../../folders/moves.js';
import { tellDone } from '../../journal/tell-done.js';
import { ErrorState, Waiting } from '../../parts/states.js';
import { lookFor } from '../edit/layer-drawing.js';
import type { StackRow } from '../edit/layer-stack.js';
import type { Sight } from '../edit/map-canvas.js';
import type { MapPlane } from '../edit/map-plane.js';
import type { SceneLayer } from '../edit/map-scene.js';
import { isInScale } from '../edit/ol-symbols.js';
import { readScale, scaleText } from '../edit/position-text.js';
import { mapFrame, pageMarks, type LegendEntry, type PageSpec } from './page-marks.js';
import { paintCanvas } from './paint-canvas.js';
import { northAt, renderMap } from './render-map.js';

/** Paper sizes of ISO 216, millimetres, upright. */
const PAPERS = { A5: [148, 210], A4: [210, 297], A3: [297, 420], A2: [420, 594] } as const;
const RESOLUTIONS = [96, 150, 200, 300] as const;
const PREVIEW_DPI = 60;
const SCALES = [1000, 2500, 5000, 10_000, 25_000, 50_000, 100_000, 250_000, 500_000, 1_000_000];

interface Props {
  readonly project: ProjectView;
  readonly draft: MapDraft;
  readonly plane: MapPlane;
  readonly layers: readonly SceneLayer[];
  readonly rows: readonly StackRow[];
  readonly sight: Sight | null;
  readonly hasLand: boolean;
  readonly pictureUrl: (layer: string, href: string) => string | null;
  readonly onClose: () => void;
}

/** The map on paper: what stands on it, its true scale, and what is missing, before anything is written. */
export function PrintDialog({ project, draft, plane, layers, rows, sight, hasLand, pictureUrl, onClose }: Props) {
  const sources = useSources(project.key).data;
  const folder = sources?.exportsFolder ?? 'exports';
  const [paper, setPaper] = useState<keyof typeof PAPERS>('A4');
  const [isWide, setWide] = useState(true);
  const [title, setTitle] = useState(draft.title);
  const [typedScale, setTypedScale] = useState(() => scaleText(niceScale(sight?.scale ?? 25_000)));
  const [dpi, setDpi] = useState<(typeof RESOLUTIONS)[number]>(200);
  const [format, setFormat] = useState<'pdf' | 'png'>('pdf');
  const [has, setHas] = useState({ legend: true, bar: true, north: true });
  const [typedAttribution, setAttribution] = useState<string | null>(null);
  const attribution = typedAttribution ?? sources?.attribution ?? '';
  const [name, setName] = useState(() => proposeName(draft.title || 'map', DEFAULT_NAMING));
  const scale = readScale(typedScale);
  const center = sight?.center ?? null;
  const [short, long] = PAPERS[paper];
  const [width, height] = isWide ? [long, short] : [short, long];
  const legend = useMemo(
    () =>
      rows.flatMap(({ layer, facts }): LegendEntry[] =>
        layer.active && facts.data?.kind && facts.data.kind !== 'table' && scale !== null && isInScale(layer, scale)
          ? [{ title: layer.title, kind: facts.data.kind, look: lookFor(layer, facts.data.kind) }]
          : [],
      ),
    [rows, scale],
  );
  const spec: PageSpec | null =
    scale === null || !center || !draft.crs
      ? null
      : {
          width,
          height,
          title,
          scale,
          crs: `${plane.crs?.name ?? ''} (${draft.crs})`,
          legend,
          attribution,
          date: new Date().toISOString().slice(0, 10),
          hasLegend: has.legend,
          hasBar: has.bar,
          hasNorth: has.north,
          north: northAt(plane, center),
        };
  const missing = missingOf(spec, draft, rows);
  const write = useMutation({
    mutationFn: async () => {
      const frame = mapFrame(spec!);
      const { canvas, isWhole } = await renderMap(plane, layers, { center: center!, scale: scale! }, frame, dpi, pictureUrl, hasLand);
      const marks = pageMarks(spec!);
      let bytes: Uint8Array;
      if (format === 'pdf') {
        const { paintPdf } = await import('./paint-pdf.js');
        bytes = await paintPdf(spec!, marks, await pngOf(canvas), title);
      } else {
        const page = document.createElement('canvas');
        paintCanvas(page, spec!, marks, canvas, dpi);
        bytes = await pngOf(page);
      }
      const applied = await api.writePrint(project.key, inRoot(project, `${folder}/${name.trim()}.${format}`), `Print ${title}`, bytes);
      return { applied, isWhole };
    },
    onSuccess: ({ applied, isWhole }) => {
      tellDone(
        `${folder}/${name.trim()}.${format} is written.${isWhole ? '' : ' Some tiles did not come in time: look at it before you pass it on.'}`,
        applied.change,
      );
      onClose();
    },
  });
  return (
    <Dialog open onClose={write.isPending ? undefined : onClose} maxWidth="lg" fullWidth aria-labelledby="print-title">
      <DialogTitle id="print-title" variant="h2">
        Print frame
      </DialogTitle>
      <DialogContent>
        <Box sx={{ display: 'grid', gridTemplateColumns: '330px minmax(0, 1fr)', gap: 3, mt: 1 }}>
          <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
            <TextField size="small" label="Title" value={title} onChange={(e) => setTitle(e.target.value)} />
            <Box sx={{ display: 'flex', gap: 1 }}>
              <TextField
                size="small"
                label="Scale"
                value={typedScale}
                onChange={(e) => setTypedScale(e.target.value)}
                error={scale === null}
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
                value={paper}
                onChange={(e) => setPaper(e.target.value as keyof typeof PAPERS)}
                sx={{ width: 90 }}
              >
                {Object.keys(PAPERS).map((p) => (
                  <MenuItem key={p} value={p}>
                    {p}
                  </MenuItem>
                ))}
              </TextField>
            </Box>
            <ToggleButtonGroup
              exclusive
              size="small"
              value={isWide}
              aria-label="Orientation"
              onChange={(_, v: boolean | null) => v !== null && setWide(v)}
            >
              <ToggleButton value={true}>Wide</ToggleButton>
              <ToggleButton value={false}>Upright</ToggleButton>
            </ToggleButtonGroup>
            <Box>
              {(['legend', 'bar', 'north'] as const).map((k) => (
                <FormControlLabel
                  key={k}
                  control={<Checkbox size="small" checked={has[k]} onChange={(e) => setHas({ ...has, [k]: e.target.checked })} />}
                  label={{ legend: 'Legend', bar: 'Scale bar', north: 'North arrow' }[k]}
                />
              ))}
            </Box>
            <TextField
              size="small"
              multiline
              maxRows={3}
              label="Attribution"
              value={attribution}
              onChange={(e) => setAttribution(e.target.value)}
            />
            <Box sx={{ display: 'flex', gap: 1 }}>
              <TextField
                select
                size="small"
                label="As"
                value={format}
                onChange={(e) => setFormat(e.target.value as 'pdf')}
                sx={{ width: 90 }}
              >
                <MenuItem value="pdf">PDF</MenuItem>
                <MenuItem value="png">PNG</MenuItem>
              </TextField>
              <TextField
                select
                size="small"
                label="Dots per inch"
                value={dpi}
                onChange={(e) => setDpi(Number(e.target.value) as 200)}
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
              value={name}
              onChange={(e) => setName(e.target.value)}
              slotProps={{
                htmlInput: { className: 'mono' },
                input: { startAdornment: <span className="mono">{folder}/</span>, endAdornment: <span className="mono">.{format}</span> },
              }}
            />
            {missing.length > 0 && (
              <Box role="note" aria-label="What is missing" sx={{ borderLeft: '3px solid var(--ochre)', pl: 1.25, fontSize: 13 }}>
                {missing.map((m) => (
                  <div key={m}>{m}</div>
                ))}
              </Box>
            )}
            {write.isError && <ErrorState error={write.error} />}
          </Box>
          <Box>
            {spec ? (
              <Preview spec={spec} layers={layers} plane={plane} center={center!} pictureUrl={pictureUrl} hasLand={hasLand} />
            ) : (
              <Typography>Type a scale like 1:25 000, and bring a layer with a CRS into the map first.</Typography>
            )}
          </Box>
        </Box>
        {write.isPending && <LinearProgress aria-label="Writing the page" sx={{ mt: 1 }} />}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!spec || name.trim() === '' || name.includes('/') || write.isPending}
          onClick={() => write.mutate()}
        >
          Write the {format.toUpperCase()}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** A round scale near the one on the screen. */
const niceScale = (scale: number): number =>
  SCALES.reduce((best, s) => (Math.abs(Math.log(s / scale)) < Math.abs(Math.log(best / scale)) ? s : best), SCALES[0]!);

function missingOf(spec: PageSpec | null, draft: MapDraft, rows: readonly StackRow[]): string[] {
  const lost = rows.filter((r) => r.layer.active && r.facts.file && !['sound', 'different'].includes(r.facts.file.state));
  const busy = rows.filter((r) => r.isReading).length;
  return [
    ...(lost.length > 0 ? [`Not drawn, since their data is not there: ${lost.map((r) => r.layer.title).join(', ')}.`] : []),
    ...(busy > 0 ? [`${busy} layers are still being read.`] : []),
    ...(spec?.title.trim() === '' ? ['The page has no title.'] : []),
    ...(spec?.attribution.trim() === '' ? ['Nothing says where the data comes from: write an attribution, or origins in Sources.'] : []),
    ...(spec && !spec.hasBar ? ['There is no scale bar: the scale is lost when the page is copied smaller.'] : []),
    ...(spec && !spec.hasLegend ? ['There is no legend.'] : []),
    ...(draft.layers.length === 0 ? ['The map has no layer.'] : []),
  ];
}

const pngOf = async (canvas: HTMLCanvasElement): Promise<Uint8Array> => {
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
  if (!blob) throw new Error('the picture is larger than this browser can make');
  return new Uint8Array(await blob.arrayBuffer());
};

/** The page in little, drawn by what will write it. */
function Preview({
  spec,
  layers,
  plane,
  center,
  pictureUrl,
  hasLand,
}: { spec: PageSpec } & Pick<Props, 'layers' | 'plane' | 'pictureUrl' | 'hasLand'> & { center: readonly [number, number] }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [map, setMap] = useState<HTMLCanvasElement | null>(null);
  const { scale, width, height } = spec;
  useEffect(() => {
    let isStale = false;
    const timer = setTimeout(() => {
      void renderMap(plane, layers, { center, scale }, mapFrame({ width, height }), PREVIEW_DPI, pictureUrl, hasLand).then((made) => {
        if (!isStale) setMap(made.canvas);
      });
    }, 250);
    return () => {
      isStale = true;
      clearTimeout(timer);
    };
  }, [plane, layers, center, scale, width, height, pictureUrl, hasLand]);
  useEffect(() => {
    if (canvas.current) paintCanvas(canvas.current, spec, pageMarks(spec), map, 110);
  }, [spec, map]);
  return (
    <Box>
      <canvas
        ref={canvas}
        role="img"
        aria-label={`The page: ${spec.title} at ${scaleText(scale)}`}
        data-drawn={map !== null}
        style={{ width: '100%', maxHeight: 470, objectFit: 'contain', border: '1px solid var(--rule)', display: 'block' }}
      />
      {!map && <Waiting what="Drawing the page…" />}
    </Box>
  );
}
