import { mdiRedo, mdiUndo } from '@mdi/js';
import { Box, Button, IconButton, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useReducer, useState } from 'react';
import type { Field } from '@rootmap/core';
import type { DigitiseRequest, DrawnGeometry, DrawnKind, EditableRecord, ProjectView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { tellDone } from '../../journal/tell-done.js';
import { many } from '../../parts/format.js';
import { Icon } from '../../parts/icon.js';
import { ErrorState } from '../../parts/states.js';
import { VirtualTable } from '../../parts/virtual-table.js';
import type { MapPlane } from '../edit/map-plane.js';
import type { MapScene } from '../edit/map-scene.js';
import type { Tool } from './drawing-board.js';
import { countOf, editsOf, nextKey, openSession, stepSession, type Session, type SessionEvent } from './edit-session.js';
import { NewField, RecordForm } from './record-form.js';
import { TypedVertices } from './typed-vertices.js';
import { useDrawingBoard } from './use-drawing-board.js';

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
  const draw = (geometry: DrawnGeometry): void => {
    send({ type: 'draw', geometry });
    setChosen(nextKey(now.records));
  };
  const remove = (key: number): void => {
    send({ type: 'remove', key });
    setChosen(null);
  };
  const { records: drawn } = now;
  useDrawingBoard({
    scene,
    kind,
    tool,
    records: drawn,
    chosen,
    onDrawn: draw,
    onReshaped: (shapes) => send({ type: 'reshape', shapes }),
    onChosen: setChosen,
  });
  useDrawingKeys(send, chosen, remove);
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
        <SessionHead
          title={title}
          session={session}
          count={count}
          isSaving={save.isPending}
          send={send}
          onSave={() => save.mutate()}
          onClose={onClose}
        />
        <ToggleButtonGroup exclusive size="small" value={tool} aria-label="Tool" onChange={(_, v: Tool | null) => v && setTool(v)}>
          <ToggleButton value="draw">Draw a {WORD[kind]}</ToggleButton>
          <ToggleButton value="choose">Choose</ToggleButton>
          <ToggleButton value="reshape">Move vertices</ToggleButton>
          <ToggleButton value="move">Move shapes</ToggleButton>
        </ToggleButtonGroup>
        {tool === 'draw' && <TypedVertices plane={plane} kind={kind} onShape={draw} />}
        {save.isError && <ErrorState error={save.error} />}
      </Box>
      {record && (
        <RecordForm
          key={record.key}
          record={record}
          fields={now.fields}
          onSet={(field, value) => send({ type: 'set', key: record.key, field, value })}
          onRemove={() => remove(record.key)}
        />
      )}
      <NewField onAdd={(field) => send({ type: 'add-field', field })} taken={now.fields.map((f) => f.name.toLowerCase())} />
      <RecordTable title={title} session={session} chosen={chosen} onChoose={setChosen} />
    </Box>
  );
}

type Send = (event: SessionEvent) => void;

/** Steps back and forth, and Delete, but in fields, which have keys of their own. */
function useDrawingKeys(send: Send, chosen: number | null, remove: (key: number) => void): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement) return;
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z') {
        e.preventDefault();
        send({ type: e.shiftKey ? 'redo' : 'undo' });
      } else if (e.key === 'Delete' && chosen !== null) remove(chosen);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [send, chosen, remove]);
}

interface HeadProps {
  readonly title: string;
  readonly session: Session;
  readonly count: number;
  readonly isSaving: boolean;
  readonly send: Send;
  readonly onSave: () => void;
  readonly onClose: () => void;
}

const SessionHead = ({ title, session, count, isSaving, send, onSave, onClose }: HeadProps) => (
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
    <IconButton size="small" aria-label="Do the edit again" disabled={session.future.length === 0} onClick={() => send({ type: 'redo' })}>
      <Icon path={mdiRedo} />
    </IconButton>
    <Button onClick={onClose}>{count > 0 ? 'Drop' : 'Close'}</Button>
    <Button variant="contained" disabled={count === 0 || isSaving} onClick={onSave}>
      Save {count > 0 ? many(count, 'edit') : ''}
    </Button>
  </Box>
);

interface TableProps {
  readonly title: string;
  readonly session: Session;
  readonly chosen: number | null;
  readonly onChoose: (key: number) => void;
}

const RecordTable = ({ title, session: { now }, chosen, onChoose }: TableProps) => (
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
            onClick={() => onChoose(r.key)}
          >
            {r.key === chosen ? 'chosen' : 'choose'}
          </Button>
        </span>
      </>
    )}
  />
);
