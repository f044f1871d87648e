import { Box, FormControl, FormControlLabel, FormLabel, MenuItem, Radio, RadioGroup, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { splitName, tableNameFault } from '@rootmap/core';
import type { EditRequest, GeodatabaseView, ProjectView, TableEdit, TableView } from '@rootmap/core/contract';
import { NameTargets } from '../parts/name-targets.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { inRoot } from '../folders/moves.js';
import { useSettled } from '../folders/use-edit.js';
import { bytes } from '../parts/format.js';

/** What a person wants to do with a container or one of its tables. */
export type TableAct =
  | { readonly action: 'rows' | 'export' | 'rename' | 'copy' | 'drop'; readonly table: TableView }
  | { readonly action: 'compact' | 'repair' | 'rescue' };

interface Props {
  readonly project: ProjectView;
  readonly container: GeodatabaseView;
  readonly containers: readonly GeodatabaseView[];
  readonly act: TableAct;
  readonly onClose: () => void;
}

/** What is asked for before it is done, with everything that follows. */
export function TableActDialog({ project, container: c, containers, act, onClose }: Props) {
  const shared = { project, container: c, onClose };
  const geodatabase = inRoot(project, c.shownPath);
  switch (act.action) {
    case 'rename':
      return <RenameTable {...shared} table={act.table} />;
    case 'copy':
      return <CopyTable {...shared} table={act.table} containers={containers.filter((o) => o.link === null && o.problem === null)} />;
    case 'rescue':
      return <Rescue {...shared} />;
    case 'drop':
      return (
        <Ask
          {...shared}
          edit={{ geodatabase, action: 'drop', tables: [act.table.name] }}
          title={`Delete ${act.table.name}`}
          button="Delete the table"
        >
          The geodatabase as it is now goes to the trash of the project, so that undo brings the table back.
        </Ask>
      );
    case 'compact':
      return (
        <Ask
          {...shared}
          edit={{ geodatabase, action: 'compact' }}
          title={`Give back free room of ${fileOf(c)}`}
          button={`Free ${bytes(c.freeBytes)}`}
        >
          It is written anew without the {bytes(c.freeBytes)} that deleted tables left free inside. Every table is counted before and after.
        </Ask>
      );
    case 'repair':
      return (
        <Ask {...shared} edit={{ geodatabase, action: 'repair' }} title={`Repair ${fileOf(c)}`} button="Repair it">
          Its ids, extents, times and spatial indexes are made true. No record is touched.
        </Ask>
      );
    default:
      return null;
  }
}

const fileOf = (c: GeodatabaseView): string => c.shownPath.slice(c.shownPath.lastIndexOf('/') + 1);

interface Shared {
  readonly project: ProjectView;
  readonly container: GeodatabaseView;
  readonly onClose: () => void;
}

interface AskProps extends Shared {
  readonly edit: TableEdit | null;
  readonly title: string;
  readonly button: string;
  readonly isSettling?: boolean;
  readonly children: ReactNode;
}

const Ask = ({ project, edit, title, button, isSettling = false, children, onClose }: AskProps) => (
  <EditDialog
    projectKey={project.key}
    title={title}
    edit={edit && ({ kind: 'tables', ...edit } satisfies EditRequest)}
    button={button}
    isSettling={isSettling}
    onClose={onClose}
  >
    {typeof children === 'string' || Array.isArray(children) ? <Typography sx={{ mb: 1 }}>{children}</Typography> : children}
  </EditDialog>
);

/** A name with its rules, as it is typed. */
function NameField({ label, value, onChange }: { label: string; value: string; onChange: (name: string) => void }) {
  const fault = tableNameFault(value.trim());
  return (
    <Box sx={{ mt: 1, mb: 1.5 }}>
      <TextField
        autoFocus
        fullWidth
        label={label}
        value={value}
        onChange={(e) => onChange(e.target.value)}
        error={fault !== null}
        helperText={fault === null ? ' ' : `Not a name for a table: ${fault}.`}
        slotProps={{ htmlInput: { className: 'mono' } }}
      />
      {fault === null && <NameTargets sort="table" name={value.trim()} />}
    </Box>
  );
}

function RenameTable({ table, ...shared }: Shared & { readonly table: TableView }) {
  const [name, setName] = useState(table.name);
  const typed = useSettled(name.trim());
  const edit: TableEdit | null =
    typed === table.name || tableNameFault(typed) !== null
      ? null
      : { geodatabase: inRoot(shared.project, shared.container.shownPath), action: 'rename', table: table.name, name: typed };
  return (
    <Ask {...shared} edit={edit} title={`Rename ${table.name}`} button="Rename the table" isSettling={typed !== name.trim()}>
      <NameField label="New name" value={name} onChange={setName} />
    </Ask>
  );
}

function CopyTable({
  table,
  containers,
  ...shared
}: Shared & { readonly table: TableView; readonly containers: readonly GeodatabaseView[] }) {
  const { project, container } = shared;
  const [into, setInto] = useState((containers.find((c) => c.path !== container.path) ?? container).shownPath);
  const [isMove, setMove] = useState(false);
  const isHere = into === container.shownPath;
  const [name, setName] = useState(isHere ? `${table.name}_2` : table.name);
  const typed = useSettled(name.trim());
  const edit: TableEdit | null =
    tableNameFault(typed) !== null
      ? null
      : {
          geodatabase: inRoot(project, container.shownPath),
          action: 'copy',
          table: table.name,
          into: inRoot(project, into),
          name: typed,
          isMove: isMove && !isHere,
        };
  return (
    <Ask
      {...shared}
      edit={edit}
      title={`Copy or move ${table.name}`}
      button={isMove && !isHere ? 'Move the table' : 'Copy the table'}
      isSettling={typed !== name.trim()}
    >
      <TextField select fullWidth label="Into" value={into} onChange={(e) => setInto(e.target.value)} sx={{ mt: 1, mb: 1 }}>
        {containers.map((c) => (
          <MenuItem key={c.path} value={c.shownPath} className="mono">
            {c.shownPath}
          </MenuItem>
        ))}
      </TextField>
      <NameField label="Name there" value={name} onChange={setName} />
      <FormControl>
        <FormLabel id="copy-or-move">The table here</FormLabel>
        <RadioGroup
          aria-labelledby="copy-or-move"
          row
          value={isMove && !isHere ? 'goes' : 'stays'}
          onChange={(_, v) => setMove(v === 'goes')}
        >
          <FormControlLabel value="stays" control={<Radio size="small" />} label="stays: layers go on using it" />
          <FormControlLabel value="goes" control={<Radio size="small" />} label="goes: layers follow to the new one" disabled={isHere} />
        </RadioGroup>
      </FormControl>
    </Ask>
  );
}

function Rescue(shared: Shared) {
  const { project, container } = shared;
  const [path, setPath] = useState(`${splitName(container.shownPath).stem}_rescued.gpkg`);
  const typed = useSettled(path.trim());
  const edit: TableEdit | null =
    typed === '' ? null : { geodatabase: inRoot(project, container.shownPath), action: 'rescue', into: inRoot(project, typed) };
  return (
    <Ask {...shared} edit={edit} title={`Rescue ${fileOf(container)}`} button="Rescue what can be read" isSettling={typed !== path.trim()}>
      <Typography>
        Every record that can be read goes into a new geodatabase, and you are told how many of each table came. The damaged file stays as
        it is.
      </Typography>
      <TextField
        fullWidth
        label="New geodatabase"
        value={path}
        onChange={(e) => setPath(e.target.value)}
        slotProps={{ htmlInput: { className: 'mono' } }}
        sx={{ mt: 1.5 }}
      />
    </Ask>
  );
}
