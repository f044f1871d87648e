import { Box, Button, Checkbox, FormControlLabel, MenuItem, Stack, TextField, Typography } from '@mui/material';
import {
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { type Placing } from '@rootmap/core';
import type { ContentView, PackPreview, SendMemory } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { usePlans } from '../api/queries.js';
import { tellDone } from '../journal/tell-done.js';
import { bytes, many } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { Step } from './step.js';
import type { Sending } from './use-send.js';

const AS_IS = 'as-is';

/** How the bundle is laid out, and what its read-me says of the work. */
export function ArrangementStep({
  sending,
  preview,
  memory,
  projectKey,
}: {
  sending: Sending;
  preview: PackPreview;
  memory: SendMemory;
  projectKey: string;
}) {
  const { send, set } = sending;
  const plans = usePlans();
  const all = [...memory.plans.map((p) => ({ id: p.id, title: p.title, folders: p.folders })), ...(plans.data ?? [])];
  const current = send.arrange === null ? AS_IS : (all.find((p) => p.title === send.arrange!.title)?.id ?? 'own');
  const choose = (id: string): void => {
    const plan = all.find((p) => p.id === id);
    set({ arrange: plan ? { title: plan.title, folders: plan.folders } : null, placings: [] });
  };
  return (
    <Step number={2} title="Arrangement" subtitle={send.arrange === null ? 'as it stands here' : `${send.arrange.title}; all paths follow`}>
      <TextField select size="small" label="Laid out" value={current} onChange={(e) => choose(e.target.value)}>
        <MenuItem value={AS_IS}>As it is</MenuItem>
        {all.map((p) => (
          <MenuItem key={p.id} value={p.id}>
            {p.title}
          </MenuItem>
        ))}
        {current === 'own' && <MenuItem value="own">{send.arrange!.title}</MenuItem>}
      </TextField>
      <FormControlLabel
        control={<Checkbox size="small" checked={send.looksBeside} onChange={(e) => set({ looksBeside: e.target.checked })} />}
        label="Looks as files (SLD) beside their data, too"
      />
      {preview.rewritten > 0 && (
        <Typography variant="body2" color="text.secondary">
          {many(preview.rewritten, 'file')} (maps, styles, the project file) {preview.rewritten === 1 ? 'is' : 'are'} written with other
          paths in the bundle; your own stay as they are.
        </Typography>
      )}
      {send.arrange ? <Arranged sending={sending} contents={preview.contents} /> : <AsItIs contents={preview.contents} />}
      <Method memory={memory} projectKey={projectKey} />
    </Step>
  );
}

const topOf = (contents: readonly ContentView[]): ContentView[] => contents.filter((c) => c.isFolder && !c.path.includes('/'));

const AsItIs = ({ contents }: { contents: readonly ContentView[] }) => (
  <Box component="ul" sx={{ m: 0, pl: 0, listStyle: 'none' }}>
    {topOf(contents).map((f) => (
      <Stack key={f.path} component="li" direction="row" sx={{ justifyContent: 'space-between', py: 0.25 }}>
        <span className="mono">{f.path}/</span>
        <Typography component="span" variant="body2" color="text.secondary">
          {many(f.files, 'file')}, {bytes(f.bytes)}
        </Typography>
      </Stack>
    ))}
  </Box>
);

/** The folders of the plan with what is in each; a folder can be dragged into another one, or sent there by its list. */
function Arranged({ sending: { send, set }, contents }: { sending: Sending; contents: readonly ContentView[] }) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }), useSensor(KeyboardSensor));
  const folders = send.arrange!.folders.filter((f) => !f.path.includes('<'));
  const move = (from: string, to: string): void => set({ placings: placed(send.placings, contents, from, to) });
  const onDragEnd = ({ active, over }: DragEndEvent): void => {
    if (over && !String(active.id).startsWith(`${over.id}/`)) move(String(active.id), String(over.id));
  };
  return (
    <DndContext sensors={sensors} onDragEnd={onDragEnd}>
      <Stack spacing={1}>
        {folders.map((f) => (
          <PlanFolderBox key={f.path} path={f.path} note={f.note} contents={contents} folders={folders.map((x) => x.path)} onMove={move} />
        ))}
        {send.placings.length > 0 && (
          <Button onClick={() => set({ placings: [] })} sx={{ alignSelf: 'flex-start' }}>
            Back to the plan’s own order
          </Button>
        )}
      </Stack>
    </DndContext>
  );
}

interface BoxProps {
  readonly path: string;
  readonly note: string;
  readonly contents: readonly ContentView[];
  readonly folders: readonly string[];
  readonly onMove: (from: string, to: string) => void;
}

function PlanFolderBox({ path, note, contents, folders, onMove }: BoxProps) {
  const { setNodeRef, isOver } = useDroppable({ id: path });
  const own = contents.find((c) => c.path === path && c.isFolder);
  const inside = contents.filter((c) => c.isFolder && c.path.startsWith(`${path}/`) && !c.path.slice(path.length + 1).includes('/'));
  return (
    <Box
      ref={setNodeRef}
      role="group"
      aria-label={path}
      sx={{ p: 1, borderRadius: 1, border: '1px solid var(--rule)', bgcolor: isOver ? 'var(--spruce-wash)' : 'transparent' }}
    >
      <Stack direction="row" sx={{ justifyContent: 'space-between' }}>
        <span className="mono" title={note}>
          {path}/
        </span>
        <Typography component="span" variant="body2" color="text.secondary">
          {own ? `${many(own.files, 'file')}, ${bytes(own.bytes)}` : 'empty'}
        </Typography>
      </Stack>
      {inside.map((f) => (
        <FolderInPlan key={f.path} folder={f} folders={folders.filter((x) => x !== path)} onMove={onMove} />
      ))}
    </Box>
  );
}

function FolderInPlan({ folder, folders, onMove }: { folder: ContentView; folders: readonly string[]; onMove: BoxProps['onMove'] }) {
  const { setNodeRef, listeners, attributes, transform, isDragging } = useDraggable({ id: folder.path });
  const name = folder.path.slice(folder.path.lastIndexOf('/') + 1);
  return (
    <Stack
      direction="row"
      sx={{
        justifyContent: 'space-between',
        alignItems: 'center',
        pl: 1,
        opacity: isDragging ? 0.6 : 1,
        transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : 'none',
      }}
    >
      <Box ref={setNodeRef} {...listeners} {...attributes} aria-label={`Drag ${name}`} className="mono" sx={{ cursor: 'grab', py: 0.5 }}>
        {name}/
      </Box>
      <TextField
        select
        variant="standard"
        value=""
        onChange={(e) => onMove(folder.path, e.target.value)}
        slotProps={{ select: { displayEmpty: true, renderValue: () => 'move' }, htmlInput: { 'aria-label': `Move ${name} to` } }}
        sx={{ '& .MuiSelect-select': { fontSize: 13, py: 0.25 } }}
      >
        {folders.map((f) => (
          <MenuItem key={f} value={f}>
            {f}
          </MenuItem>
        ))}
      </TextField>
    </Stack>
  );
}

/** A folder of the bundle stands for the folders that its files have here: those are what is placed. */
function placed(before: readonly Placing[], contents: readonly ContentView[], from: string, to: string): Placing[] {
  const sources = new Set(contents.filter((c) => !c.isFolder && c.path.startsWith(`${from}/`) && c.now !== '').map((c) => folderOf(c.now)));
  const kept = before.filter((p) => !sources.has(p.from));
  return [...kept, ...[...sources].map((source) => ({ from: source, to }))];
}
const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));

/** The text on method and scales, which the project keeps and the read-me carries. */
function Method({ memory, projectKey }: { memory: SendMemory; projectKey: string }) {
  const [text, setText] = useState(memory.method);
  const [kept, setKept] = useState(memory.method);
  const keep = useMutation({
    mutationFn: () => api.applyEdit(projectKey, { kind: 'method', text }),
    onSuccess: (applied) => {
      setKept(text);
      tellDone('The text is in the project file.', applied.change);
    },
  });
  return (
    <Stack spacing={0.5}>
      <TextField
        multiline
        minRows={3}
        maxRows={8}
        size="small"
        label="Method and scales, for the read-me"
        placeholder="Digitised at 1:5 000, made for maps of 1:10 000 and smaller…"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      {text !== kept && (
        <Button onClick={() => keep.mutate()} disabled={keep.isPending} sx={{ alignSelf: 'flex-start' }}>
          Keep this text
        </Button>
      )}
      {keep.isError && <ErrorState error={keep.error} />}
      <Typography variant="body2" color="text.secondary">
        READ_ME.txt and READ_ME.html go along: title, contents, CRS, attributions and licences, how to open it, and this text.
      </Typography>
    </Stack>
  );
}
