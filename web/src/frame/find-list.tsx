import { Autocomplete, Box, TextField } from '@mui/material';
import { useEffect, useState, type RefObject } from 'react';
import { useNavigate } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client.js';
import { keys, useProjects } from '../api/queries.js';
import { TOPICS } from '../help/topics.js';
import { COMMANDS } from './commands.js';
import { FIND_LOOK, FIND_WORDS } from './find-look.js';

interface Hit {
  readonly kind: string;
  readonly label: string;
  readonly detail: string;
  readonly to: string;
  /** More words by which it is found. */
  readonly words?: string;
}

const MOST_SHOWN = 60;

export interface FindListProps {
  readonly projectKey: string | null;
  readonly text: string;
  readonly onText: (text: string) => void;
  readonly input: RefObject<HTMLInputElement | null>;
}

/** Any layer, map, dataset, project, page, command or help, by name. */
export function FindList({ projectKey, text, onText, input }: FindListProps) {
  const navigate = useNavigate();
  const [open, setOpen] = useState(true);
  const hits = useHits(projectKey, open);
  useEffect(() => input.current?.focus(), [input]);
  return (
    <Autocomplete<Hit>
      options={hits}
      value={null}
      open={open}
      onOpen={() => setOpen(true)}
      onClose={() => setOpen(false)}
      inputValue={text}
      onInputChange={(_, value, reason) => {
        if (reason === 'input' || reason === 'clear') onText(value);
        else if (reason !== 'reset') onText(''); // somebody chose, or went away; what was typed while the list came stays
      }}
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
          placeholder={FIND_WORDS}
          slotProps={{ ...params.slotProps, htmlInput: { ...params.slotProps.htmlInput, 'aria-label': 'Find' } }}
        />
      )}
      size="small"
      forcePopupIcon={false}
      sx={FIND_LOOK}
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
