import { Box, Button, Checkbox, FormControlLabel, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useNavigate } from 'react-router';
import type { ProjectView } from '@rootmap/core/contract';
import { ErrorState } from '../parts/states.js';
import { sendFiles } from '../sources/send-files.js';

const MOST_OFFERED = 300;

interface Props {
  readonly project: ProjectView;
  readonly into: string;
  readonly queue: ReadonlySet<string>;
  readonly onFlip: (dataset: string) => void;
}

/** The datasets that can be brought in; files that are dropped here go to Sources first. */
export function ImportChoice({ project, into, queue, onFlip }: Props) {
  const [words, setWords] = useState('');
  const arrivals = useArrivals();
  const offered = project.datasets.filter(
    (d) =>
      d.kind !== 'opaque' &&
      `${d.folder}/${d.name}`.toLowerCase().includes(words.trim().toLowerCase()) &&
      !d.id.startsWith(`${project.root}/${into}#`),
  );
  return (
    <Box
      {...arrivals.zone.getRootProps({ role: 'group', 'aria-label': 'Choose datasets, or drop files' })}
      sx={{ borderRadius: 1, bgcolor: arrivals.zone.isDragActive ? 'var(--ochre-wash)' : undefined }}
    >
      <input {...arrivals.zone.getInputProps({ 'aria-label': 'Files for the geodatabase' })} />
      <TextField
        fullWidth
        placeholder="Find a dataset…"
        value={words}
        onChange={(e) => setWords(e.target.value)}
        slotProps={{ htmlInput: { 'aria-label': 'Find a dataset' } }}
      />
      <Box role="group" aria-label="Datasets" tabIndex={0} sx={{ maxHeight: 290, overflow: 'auto', mt: 1 }}>
        {offered.slice(0, MOST_OFFERED).map((d) => (
          <FormControlLabel
            key={d.id}
            control={<Checkbox size="small" checked={queue.has(d.id)} onChange={() => onFlip(d.id)} sx={{ p: 0.5 }} />}
            label={<span className="mono">{d.name}</span>}
            sx={{
              display: 'flex',
              m: 0,
              '& .MuiFormControlLabel-label': { fontSize: 13, overflow: 'hidden', textOverflow: 'ellipsis' },
            }}
          />
        ))}
      </Box>
      <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }} role="status">
        {arrivals.sending ?? 'Files dropped here come into the project first, with their origin.'}{' '}
        <Button size="small" onClick={arrivals.zone.open}>
          Choose files
        </Button>
      </Typography>
      {arrivals.error !== null && <ErrorState error={arrivals.error} />}
    </Box>
  );
}

/** What is dropped goes to Sources, which looks at it and brings it in: a geodatabase is filled from what the project has. */
function useArrivals() {
  const navigate = useNavigate();
  const [sending, setSending] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  const send = async (files: readonly File[]): Promise<void> => {
    const ids: string[] = [];
    try {
      await sendFiles(
        files,
        (file) => setSending(`Taking ${file.name} …`),
        (id) => ids.push(id),
      );
      await navigate(`../sources?view=intake&arrivals=${ids.join(',')}`, { relative: 'path' });
    } catch (problem) {
      setError(problem);
    } finally {
      setSending(null);
    }
  };
  const zone = useDropzone({ onDrop: (files) => void send(files), noKeyboard: true, noClick: true });
  return { zone, sending, error };
}
