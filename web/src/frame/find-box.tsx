import { Autocomplete, Box, TextField } from '@mui/material';
import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client.js';
import { keys, useProjects } from '../api/queries.js';
import { TOPICS } from '../help/topics.js';
import { COMMANDS } from './commands.js';
import { isPressed } from './single-keys.js';

interface Hit {
  readonly kind: string;
  readonly label: string;
  readonly detail: string;
  readonly to: string;
  /** More words by which it is found. */
  readonly words?: string;
}

const MOST_SHOWN = 60;

/** Any layer, map, dataset, project, page, command or help, by name. Key `/` goes there. */
export function FindBox({ projectKey }: { projectKey: string | null }) {
  const navigate = useNavigate();
  const input = useRef<HTMLInputElement>(null);
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const hits = useHits(projectKey, open);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (!isPressed(event, '/')) return;
      event.preventDefault();
      input.current?.focus();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <Autocomplete<Hit>
      options={hits}
      value={null}
      open={open}
      onOpen={() => setOpen(true)}
      onClose={() => setOpen(false)}
      inputValue={text}
      onInputChange={(_, value, reason) => setText(reason === 'reset' ? '' : value)}
      onChange={(_, hit) => {
        if (hit) void navigate(hit.to);
      }}
      blurOnSelect
      groupBy={(h) => h.kind}
      getOptionLabel={(h) => h.label}
      getOptionKey={(h) => `${h.kind} ${h.to} ${h.label}`}
      filterOptions={(all, { inputValue }) => {
        const words = inputValue.toLowerCase().split(/\s+/).filter(Boolean);
        return all
          .filter((h) => words.every((w) => `${h.label} ${h.detail} ${h.words ?? ''}`.toLowerCase().includes(w)))
          .slice(0, MOST_SHOWN);
      }}
      noOptionsText="Nothing has that name"
      renderOption={({ key, ...props }, h) => (
        <Box component="li" key={key} {...props} sx={{ display: 'block !important' }}>
          <div>{h.label}</div>
          {h.detail !== '' && (
            <Box className="mono" sx={{ color: 'text.secondary', fontSize: 12 }}>
              {h.detail}
            </Box>
          )}
        </Box>
      )}
      renderInput={(params) => (
        <TextField
          {...params}
          inputRef={input}
          placeholder="Find data, a page, or what to do ( / )"
          slotProps={{ ...params.slotProps, htmlInput: { ...params.slotProps.htmlInput, 'aria-label': 'Find' } }}
        />
      )}
      size="small"
      forcePopupIcon={false}
      sx={{
        width: 320,
        '& .MuiOutlinedInput-root': { bgcolor: 'rgba(255,255,255,0.1)', color: 'var(--top-text)', height: 34, py: '0 !important' },
        '& input::placeholder': { color: 'var(--top-text)', opacity: 0.75 },
        '& fieldset': { borderColor: 'transparent' },
      }}
    />
  );
}

function useHits(key: string | null, wanted: boolean): Hit[] {
  const projects = useProjects();
  const project = useQuery({ queryKey: keys.project(key ?? ''), queryFn: () => api.project(key!), enabled: key !== null && wanted });
  const hits: Hit[] = [];
  if (project.data) {
    const base = `/p/${key}`;
    for (const m of project.data.maps) {
      hits.push({ kind: 'Maps', label: m.title, detail: m.relativePath, to: `${base}/maps?map=${encodeURIComponent(m.relativePath)}` });
      for (const l of m.layers)
        hits.push({
          kind: 'Layers',
          label: l.title,
          detail: [m.title, l.href].filter(Boolean).join(' · '),
          to:
            l.state === 'sound'
              ? `${base}/maps?map=${encodeURIComponent(m.relativePath)}&layer=${encodeURIComponent(l.layer)}`
              : `${base}/mend?layer=${encodeURIComponent(l.key)}`,
        });
    }
    for (const d of project.data.datasets)
      hits.push({
        kind: 'Datasets',
        label: d.name,
        detail: d.link ? `${d.link}/${d.folder}` : d.folder,
        to: `${base}/overview?dataset=${encodeURIComponent(d.id)}`,
      });
    for (const stop of ['overview', 'folders', 'sources', 'maps', 'mend', 'send'])
      hits.push({ kind: 'Go to', label: stop[0]!.toUpperCase() + stop.slice(1), detail: 'this project', to: `${base}/${stop}` });
  }
  for (const p of projects.data ?? []) hits.push({ kind: 'Projects', label: p.title, detail: p.root, to: `/p/${p.key}/overview` });
  for (const [label, to] of [
    ['Start', '/'],
    ['New project', '/new'],
    ['Places', '/places'],
    ['Journal', '/journal'],
    ['Receive a bundle', '/receive'],
    ['Help', '/help'],
  ] as const)
    hits.push({ kind: 'Go to', label, detail: '', to });
  for (const c of COMMANDS)
    if (key !== null || !c.to.includes(':key'))
      hits.push({ kind: 'Do', label: c.label, detail: '', words: c.words, to: c.to.replace(':key', key ?? '') });
  for (const t of TOPICS) hits.push({ kind: 'Help', label: `Help: ${t.title}`, detail: '', words: t.purpose, to: `/help?topic=${t.id}` });
  return hits.sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind));
}
const ORDER = ['Layers', 'Maps', 'Datasets', 'Projects', 'Do', 'Go to', 'Help'];
