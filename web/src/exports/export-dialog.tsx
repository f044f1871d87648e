import {
  Box,
  Checkbox,
  FormControl,
  FormControlLabel,
  FormLabel,
  LinearProgress,
  Radio,
  RadioGroup,
  TextField,
  Typography,
} from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useMemo, useState, type ReactNode } from 'react';
import { DEFAULT_NAMING, proposeName, type ThreeBands } from '@rootmap/core';
import { EVERY_RECORD, type ExportFormat, type ExportPreview, type ExportRequest, type ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, useOwnSources } from '../api/queries.js';
import { inRoot } from '../folders/moves.js';
import { useSettled } from '../folders/use-edit.js';
import { bytes, many, number } from '../parts/format.js';
import { ThreeBandsField } from '../parts/band-field.js';
import { JobActions, useStartedJob } from '../parts/job-actions.js';
import { PathText } from '../parts/path-text.js';
import { EXPORT_FORMATS } from './export-formats.js';
import { ExportReceipt } from './export-receipt.js';
import { Losses } from './losses.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { FormDialog } from '../parts/form-dialog.js';

interface Props {
  readonly project: ProjectView;
  /** Id of the dataset. */
  readonly dataset: string;
  readonly name: string;
  readonly crs: string | null;
  readonly isRaster: boolean;
  readonly onClose: () => void;
}

const fileStem = (name: string): string => proposeName(name.replace(/\.[^.]+$/, ''), DEFAULT_NAMING);

/** One dataset in another format: what is written, what the format cannot hold, and afterwards how many records came over. */
export function ExportDialog({ project, dataset, name, crs, isRaster, onClose }: Props) {
  const folder = useOwnSources(project.key)?.exportsFolder ?? null;
  const [format, setFormat] = useState<ExportFormat>(isRaster ? 'geotiff' : 'shapefile');
  /** Bands that are wanted; empty: all. */
  const [bands, setBands] = useState<readonly number[]>([]);
  /** Bands that become a picture; null: none do. */
  const [composite, setComposite] = useState<ThreeBands | null>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const stem = typed ?? (folder === null ? '' : `${folder}/${fileStem(name)}`);
  const [isInProject, setInProject] = useState(false);
  const canMove = crs !== null && project.crs !== null && crs !== project.crs && format !== 'geojson' && !isRaster;
  const asked = useMemo(
    (): ExportRequest | null =>
      stem.trim() === ''
        ? null
        : {
            dataset,
            format,
            at: inRoot(project, `${stem.trim()}.${EXPORT_FORMATS[format].ending}`),
            crs: canMove && isInProject ? project.crs : null,
            bands: composite ? [] : bands,
            composite,
            selection: EVERY_RECORD,
          },
    [dataset, format, stem, canMove, isInProject, bands, composite, project],
  );
  const { request, plan } = useExportPlan(project.key, asked);
  const start = useMutation({ mutationFn: (body: ExportRequest) => api.startExport(project.key, body) });
  const { job, isRunning, isDone, result } = useStartedJob(start.data);
  const shown = (path: string): string => (path.startsWith(`${project.root}/`) ? path.slice(project.root.length + 1) : path);
  return (
    <FormDialog
      title={`Export ${name}`}
      confirm={`Write ${plan.data ? many(plan.data.files.length, 'file') : 'it'}`}
      disabled={!plan.data || plan.data.why !== null || isRunning || start.isPending || request !== asked}
      isBusy={isRunning}
      maxWidth="md"
      onConfirm={() => request && start.mutate(request)}
      onClose={onClose}
      foot={(button) => (
        <JobActions job={job} isRunning={isRunning} isDone={isDone} onClose={onClose}>
          {button}
        </JobActions>
      )}
    >
      {result ? (
        <ExportReceipt done={result} shown={shown} />
      ) : (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '280px minmax(0, 1fr)' }, gap: 3, mt: 1 }}>
          <FormatChoice value={format} isRaster={isRaster} onChange={setFormat} />
          <Box>
            <TextField
              fullWidth
              label="File"
              value={stem}
              onChange={(e) => setTyped(e.target.value)}
              slotProps={{
                htmlInput: { className: 'mono' },
                input: { endAdornment: <span className="mono">.{EXPORT_FORMATS[format].ending}</span> },
              }}
            />
            {canMove && (
              <FormControlLabel
                control={<Checkbox size="small" checked={isInProject} onChange={(e) => setInProject(e.target.checked)} />}
                label={`Compute the coordinates in the project's ${project.crs}`}
              />
            )}
            {plan.data && (
              <BandsWanted of={plan.data.bands} bands={bands} composite={composite} onBands={setBands} onComposite={setComposite} />
            )}
            <Outcome plan={plan.data} error={start.error ?? plan.error} isRaster={isRaster} shown={shown}>
              {job?.state === 'failed' && <Typography color="error">{job.message}</Typography>}
              {isRunning && <LinearProgress aria-label="Exporting" sx={{ mt: 1 }} />}
            </Outcome>
          </Box>
        </Box>
      )}
    </FormDialog>
  );
}

/** What would be written, once nobody types any more. */
function useExportPlan(projectKey: string, asked: ExportRequest | null) {
  const request = useSettled(asked);
  const plan = useQuery({
    queryKey: keys.of(projectKey, 'export', request),
    queryFn: () => api.planExport(projectKey, request!),
    enabled: request !== null,
    retry: false,
    gcTime: 0,
  });
  return { request, plan };
}

interface OutcomeProps {
  readonly plan: ExportPreview | undefined;
  readonly error: Error | null;
  readonly isRaster: boolean;
  readonly shown: (path: string) => string;
  readonly children: ReactNode;
}

/** What would be written, or why nothing is. */
const Outcome = ({ plan, error, isRaster, shown, children }: OutcomeProps) => (
  <Box sx={{ mt: 1.5, fontSize: 13 }}>
    {error ? (
      <ErrorState error={error} />
    ) : plan ? (
      <Planned plan={plan} shown={shown} />
    ) : (
      <Waiting what={isRaster ? 'Looking at its pixels…' : 'Looking at every record…'} />
    )}
    {children}
  </Box>
);

interface BandsWantedProps {
  readonly of: number;
  readonly bands: readonly number[];
  readonly composite: ThreeBands | null;
  readonly onBands: (bands: readonly number[]) => void;
  readonly onComposite: (three: ThreeBands | null) => void;
}

/** Which bands of a raster are written, or three of them as a picture. */
const BandsWanted = ({ of, bands, composite, onBands, onComposite }: BandsWantedProps) => (
  <>
    {of > 2 && (
      <FormControlLabel
        control={<Checkbox size="small" checked={composite !== null} onChange={(e) => onComposite(e.target.checked ? [1, 2, 3] : null)} />}
        label="Three of its bands, as a picture"
      />
    )}
    {composite && <ThreeBandsField value={composite} bands={of} onChange={onComposite} />}
    {of > 1 && !composite && <BandChoice of={of} value={bands} onChange={onBands} />}
  </>
);

/** Bands of numbers: all of them, or those that are ticked. */
function BandChoice({ of, value, onChange }: { of: number; value: readonly number[]; onChange: (bands: readonly number[]) => void }) {
  const toggle = (band: number): void =>
    onChange(value.includes(band) ? value.filter((b) => b !== band) : [...value, band].sort((a, b) => a - b));
  return (
    <FormControl component="fieldset" sx={{ mt: 1.5, maxHeight: 160, overflow: 'auto' }}>
      <FormLabel component="legend">
        {value.length === 0 ? `All that it shows, of ${of} bands` : `${many(value.length, 'band')} of ${of}`}
      </FormLabel>
      <Box>
        {Array.from({ length: of }, (_, i) => (
          <FormControlLabel
            key={i}
            control={<Checkbox size="small" checked={value.includes(i + 1)} onChange={() => toggle(i + 1)} />}
            label={`Band ${i + 1}`}
          />
        ))}
      </Box>
    </FormControl>
  );
}

interface FormatChoiceProps {
  readonly value: ExportFormat;
  readonly isRaster: boolean;
  readonly onChange: (format: ExportFormat) => void;
}
const FormatChoice = ({ value, isRaster, onChange }: FormatChoiceProps) => (
  <FormControl>
    <FormLabel id="export-format">As</FormLabel>
    <RadioGroup aria-labelledby="export-format" value={value} onChange={(_, v) => onChange(v as ExportFormat)}>
      {Object.entries(EXPORT_FORMATS)
        .filter(([key]) => (key === 'geotiff') === isRaster)
        .map(([key, f]) => (
          <FormControlLabel
            key={key}
            value={key}
            control={<Radio size="small" />}
            sx={{ alignItems: 'flex-start', mb: 1 }}
            label={
              <Box sx={{ pt: 0.75 }}>
                {f.label}
                <Typography variant="body2" color="text.secondary">
                  {f.hint}
                </Typography>
              </Box>
            }
          />
        ))}
    </RadioGroup>
  </FormControl>
);

/** What would be written, and what of it the format cannot hold. */
const Planned = ({ plan, shown }: { plan: ExportPreview; shown: (path: string) => string }) => (
  <>
    {plan.why !== null && <Box sx={{ color: 'var(--plum)', mb: 1 }}>Not so: {plan.why}.</Box>}
    <div>
      {plan.unit === 'pixels' ? `${number(plan.records)} pixels` : many(plan.records, 'record')}
      {plan.crs ? `, in ${plan.crs}` : ''}
    </div>
    {plan.files.map((f) => (
      <div key={f.path}>
        <PathText path={shown(f.path)} most={60} /> <span style={{ color: 'var(--soft)' }}>{f.bytes === null ? '' : bytes(f.bytes)}</span>
      </div>
    ))}
    <Losses losses={plan.losses} />
  </>
);
