import { mdiRedo, mdiUndo } from '@mdi/js';
import { Box, Button, Checkbox, FormControlLabel, IconButton, TextField, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useReducer, useRef, useState } from 'react';
import type { Field } from '@rootmap/core';
import type { DigitiseRequest, DrawnGeometry, DrawnKind, EditableRecord, ProjectView, ShownValue } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { tellDone } from '../../journal/tell-done.js';
import { many } from '../../parts/format.js';
import { Icon } from '../../parts/icon.js';
import { ErrorState } from '../../parts/states.js';
import { VirtualTable } from '../../parts/virtual-table.js';
import { useToken } from '../../theme/use-token.js';
import type { MapPlane, Point } from '../edit/map-plane.js';
import type { MapScene } from '../edit/map-scene.js';
import { positionText, readPosition } from '../edit/position-text.js';
import { DrawingBoard, type Tool } from './drawing-board.js';
import { countOf, editsOf, openSession, stepSession, type EditedRecord } from './edit-session.js';
import { FieldTypeChoice } from './new-dataset-form.js';

interface Props {
  readonly project: ProjectView;
  readonly plane: MapPlane;
  readonly scene: MapScene;
  readonly title: string;
  readonly kind: DrawnKind;
  readonly fields: readonly Field[];
  readonly records: readonly EditableRecord[];
  readonly base: Pick<DigitiseRequest, 'dataset' | 'create' | 'crs' | 'state'>;
  readonly onSaved: (dataset: string) => void;
  readonly onClose: () => void;
}
const WORD: Readonly<Record<DrawnKind, string>> = { Point: 'point', LineString: 'line', Polygon: 'area' };
const FEWEST: Readonly<Record<DrawnKind, number>> = { Point: 1, LineString: 2, Polygon: 3 };

function shapeOf(kind: DrawnKind, vertices: readonly Point[]): DrawnGeometry {
  if (kind === 'Point') return { type: kind, coordinates: vertices[0] };
  return { type: kind, coordinates: kind === 'LineString' ? vertices : [[...vertices, vertices[0]]] };
}

/** Shapes on the map and their values beside it, with every step to be taken back, until they are saved or dropped. */
export function DrawingSession(props: Props) {
  const { project, plane, scene, title, kind, fields, records, base, onSaved, onClose } = props;
  const [session, send] = useReducer(stepSession, null, () => openSession(fields, records));
  const [first] = useState(session.now);
  const [tool, setTool] = useState<Tool>(records.length === 0 ? 'draw' : 'choose');
  const [chosen, setChosen] = useState<number | null>(null);
  const { now } = session;
  const edits = editsOf(first, now);
  const count = countOf(edits);
  const [plain, marked, paper] = [useToken('--plum'), useToken('--ochre'), useToken('--sheet')];
  const board = useRef<DrawingBoard | null>(null);
  const nextKey = useRef(0);
  nextKey.current = now.records.reduce((most, r) => Math.max(most, r.key), -1) + 1;
  useEffect(() => {
    const made = new DrawingBoard(
      scene.map,
      kind,
      {
        onDrawn: (geometry) => (send({ type: 'draw', geometry }), setChosen(nextKey.current)),
        onReshaped: (shapes) => send({ type: 'reshape', shapes }),
        onChosen: setChosen,
      },
      { plain, chosen: marked, paper },
    );
    board.current = made;
    return () => {
      board.current = null;
      made.dispose();
    };
  }, [scene, kind, plain, marked, paper]);
  useEffect(() => board.current?.use(tool), [tool, scene, kind, plain, marked, paper]);
  useEffect(() => board.current?.show(now.records, chosen), [now.records, chosen, scene, kind, plain, marked, paper]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      const isTyping = e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement;
      if (isTyping) return;
      if ((e.ctrlKey || e.metaKey) && e.key === 'z') {
        e.preventDefault();
        send({ type: e.shiftKey ? 'redo' : 'undo' });
      } else if (e.key === 'Delete' && chosen !== null) {
        send({ type: 'remove', key: chosen });
        setChosen(null);
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [chosen]);
  const save = useMutation({
    mutationFn: () => api.digitise(project.key, { ...base, ...edits }),
    onSuccess: (done) => {
      tellDone(
        `Saved: ${title} has ${many(done.records, 'record')} now.`,
        done.changeId === null ? null : { id: done.changeId, canUndo: true },
      );
      onSaved(done.dataset);
    },
  });
  const record = now.records.find((r) => r.key === chosen) ?? null;
  return (
    <Box component="section" aria-label={`Drawing ${title}`} sx={{ display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
      <Box sx={{ p: 1.25, display: 'flex', flexDirection: 'column', gap: 1 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
          <Typography variant="h3" component="h2" sx={{ flex: 1 }}>
            {title}
          </Typography>
          <IconButton
            size="small"
            aria-label="Take the last edit back"
            disabled={session.past.length === 0}
            onClick={() => send({ type: 'undo' })}
          >
            <Icon path={mdiUndo} />
          </IconButton>
          <IconButton
            size="small"
            aria-label="Do the edit again"
            disabled={session.future.length === 0}
            onClick={() => send({ type: 'redo' })}
          >
            <Icon path={mdiRedo} />
          </IconButton>
          <Button onClick={onClose}>{count > 0 ? 'Drop' : 'Close'}</Button>
          <Button variant="contained" disabled={count === 0 || save.isPending} onClick={() => save.mutate()}>
            Save {count > 0 ? many(count, 'edit') : ''}
          </Button>
        </Box>
        <ToggleButtonGroup exclusive size="small" value={tool} aria-label="Tool" onChange={(_, v: Tool | null) => v && setTool(v)}>
          <ToggleButton value="draw">Draw a {WORD[kind]}</ToggleButton>
          <ToggleButton value="choose">Choose</ToggleButton>
          <ToggleButton value="reshape">Move vertices</ToggleButton>
          <ToggleButton value="move">Move shapes</ToggleButton>
        </ToggleButtonGroup>
        {tool === 'draw' && (
          <TypedVertices plane={plane} kind={kind} onShape={(geometry) => (send({ type: 'draw', geometry }), setChosen(nextKey.current))} />
        )}
        {save.isError && <ErrorState error={save.error} />}
      </Box>
      {record && (
        <RecordForm
          key={record.key}
          record={record}
          fields={now.fields}
          onSet={(field, value) => send({ type: 'set', key: record.key, field, value })}
          onRemove={() => (send({ type: 'remove', key: record.key }), setChosen(null))}
        />
      )}
      <NewField onAdd={(field) => send({ type: 'add-field', field })} taken={now.fields.map((f) => f.name.toLowerCase())} />
      <VirtualTable
        label={`Records of ${title}`}
        items={now.records}
        rowHeight={30}
        columns={`40px repeat(${Math.min(4, now.fields.length)}, minmax(0, 1fr)) 70px`}
        keyOf={(r) => String(r.key)}
        cells={(r) => (
          <>
            <span role="cell">{r.id ?? 'new'}</span>
            {now.fields.slice(0, 4).map((f, i) => (
              <span key={f.name} role="cell" style={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={f.name}>
                {r.values[i] === null || r.values[i] === undefined ? '' : String(r.values[i])}
              </span>
            ))}
            <span role="cell">
              <Button
                size="small"
                aria-pressed={r.key === chosen}
                aria-label={`Choose record ${r.id ?? `new ${r.key}`}`}
                sx={{ minWidth: 0, py: 0 }}
                onClick={() => setChosen(r.key)}
              >
                {r.key === chosen ? 'chosen' : 'choose'}
              </Button>
            </span>
          </>
        )}
      />
    </Box>
  );
}

/** A shape by typed positions: for those who have them in figures, or use no pointer. */
function TypedVertices({ plane, kind, onShape }: { plane: MapPlane; kind: DrawnKind; onShape: (geometry: DrawnGeometry) => void }) {
  const [text, setText] = useState('');
  const [vertices, setVertices] = useState<readonly Point[]>([]);
  const [fault, setFault] = useState<string | null>(null);
  const add = (): void => {
    const position = readPosition(text);
    const at = position === null ? null : position.kind === 'plane' ? position.at : plane.toPlane(position.at);
    if (!at) return setFault(`"${text}" is no position`);
    setFault(null);
    setText('');
    if (kind === 'Point') onShape(shapeOf(kind, [at]));
    else setVertices([...vertices, at]);
  };
  return (
    <Box>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-start' }}>
        <TextField
          size="small"
          fullWidth
          label="Or type a position"
          placeholder="E N, or 43.98N 39.17W"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && add()}
          error={fault !== null}
          helperText={
            fault ??
            (vertices.length > 0
              ? `${many(vertices.length, 'vertex', 'vertices')}, the last at ${positionText(vertices.at(-1)!, plane.crs?.unit ?? null)}`
              : undefined)
          }
          slotProps={{ htmlInput: { className: 'mono' } }}
        />
        <Button disabled={text.trim() === ''} onClick={add}>
          Add
        </Button>
        {kind !== 'Point' && (
          <Button disabled={vertices.length < FEWEST[kind]} onClick={() => (onShape(shapeOf(kind, vertices)), setVertices([]))}>
            Finish
          </Button>
        )}
      </Box>
    </Box>
  );
}

/** The values of one record. */
function RecordForm({
  record,
  fields,
  onSet,
  onRemove,
}: {
  record: EditedRecord;
  fields: readonly Field[];
  onSet: (field: number, value: ShownValue) => void;
  onRemove: () => void;
}) {
  return (
    <Box
      role="group"
      aria-label="Values of the chosen record"
      sx={{ px: 1.25, pb: 1, display: 'flex', flexWrap: 'wrap', gap: 1, maxHeight: 220, overflow: 'auto', alignItems: 'center' }}
    >
      {fields.map((f, i) =>
        f.type === 'boolean' ? (
          <FormControlLabel
            key={f.name}
            control={<Checkbox size="small" checked={record.values[i] === true} onChange={(e) => onSet(i, e.target.checked)} />}
            label={f.name}
          />
        ) : (
          <ValueField key={f.name} field={f} value={record.values[i] ?? null} onSet={(v) => onSet(i, v)} />
        ),
      )}
      <Button color="secondary" onClick={onRemove}>
        Remove this record
      </Button>
    </Box>
  );
}

function ValueField({ field, value, onSet }: { field: Field; value: ShownValue; onSet: (value: ShownValue) => void }) {
  const [text, setText] = useState(value === null ? '' : String(value));
  useEffect(() => setText(value === null ? '' : String(value)), [value]);
  const isNumber = field.type === 'real' || field.type === 'integer' || field.type === 'integer64';
  const isWrong = isNumber && text.trim() !== '' && !Number.isFinite(Number(text.replace(',', '.')));
  const take = (): void => {
    const now: ShownValue = text.trim() === '' ? null : isNumber ? (isWrong ? text : Number(text.replace(',', '.'))) : text;
    if (now !== value) onSet(now);
  };
  return (
    <TextField
      size="small"
      label={field.name}
      type={field.type === 'date' ? 'date' : 'text'}
      value={text}
      disabled={field.type === 'binary' || field.type === 'json'}
      error={isWrong}
      helperText={isWrong ? 'no number' : undefined}
      onChange={(e) => setText(e.target.value)}
      onBlur={take}
      onKeyDown={(e) => e.key === 'Enter' && take()}
      slotProps={{ inputLabel: { shrink: true } }}
      sx={{ width: 130 }}
    />
  );
}

function NewField({ onAdd, taken }: { onAdd: (field: Field) => void; taken: readonly string[] }) {
  const [isOpen, setOpen] = useState(false);
  const [name, setName] = useState('');
  const [type, setType] = useState<'text' | 'integer' | 'real' | 'boolean' | 'date'>('text');
  const isTaken = taken.includes(name.trim().toLowerCase());
  if (!isOpen)
    return (
      <Button size="small" sx={{ alignSelf: 'flex-start', ml: 1 }} onClick={() => setOpen(true)}>
        Add a field
      </Button>
    );
  return (
    <Box sx={{ display: 'flex', gap: 1, px: 1.25, pb: 1, alignItems: 'flex-start' }}>
      <TextField
        size="small"
        label="New field"
        value={name}
        onChange={(e) => setName(e.target.value)}
        error={isTaken}
        helperText={isTaken ? 'it is there already' : undefined}
      />
      <FieldTypeChoice value={type} onChange={setType} />
      <Button disabled={name.trim() === '' || isTaken} onClick={() => (onAdd({ name: name.trim(), type }), setName(''), setOpen(false))}>
        Add it
      </Button>
    </Box>
  );
}
