import {
  Alert,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  MenuItem,
  Table,
  TableBody,
  TableCell,
  TableHead,
  TableRow,
  TextField,
  Typography,
} from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { AppliedView, FieldToMap, MendLayerView, PathRequest, ReplacementView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { FolderChooser } from '../parts/folder-chooser.js';
import { day, kindWord, many, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { isDatasetFile } from './dataset-file.js';
import { RewriteList } from './rewrite-list.js';
import { useSubject } from './subject.js';
import { keys } from '../api/queries.js';

interface Props {
  readonly projectKey: string;
  readonly layer: MendLayerView;
  /** What stands where the layer's data was recorded is meant: nothing is to be chosen. */
  readonly isWhatStandsThere: boolean;
  readonly onClose: () => void;
  readonly onDone: (done: AppliedView) => void;
}

/** Other data for a layer, on purpose: choose it, say which of its fields take the places of those that are used, write. */
export function ReplaceDialog({ projectKey, layer, isWhatStandsThere, onClose, onDone }: Props) {
  const { start } = useSubject();
  const [target, setTarget] = useState<PathRequest | null>(null);
  const [table, setTable] = useState<string | null>(null);
  const isChosen = isWhatStandsThere || target !== null;
  const look = useQuery({
    queryKey: keys.of(projectKey, 'mend', 'replacement', layer.key, target, table),
    queryFn: () => api.replacement(projectKey, { key: layer.key, target, table }),
    enabled: isChosen,
    retry: false,
  });
  if (!isChosen)
    return (
      <FolderChooser
        open
        title={`Other data for “${layer.title}”`}
        acceptsFile={isDatasetFile}
        start={start}
        onChoose={setTarget}
        onClose={onClose}
      />
    );
  const again = isWhatStandsThere ? null : () => (setTarget(null), setTable(null));
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="replace-title">
      <DialogTitle id="replace-title" variant="h2">
        Other data for “{layer.title}”
      </DialogTitle>
      {look.isError ? (
        <>
          <DialogContent>
            <ErrorState error={look.error} />
          </DialogContent>
          <Actions onAgain={again} onClose={onClose} />
        </>
      ) : !look.data ? (
        <DialogContent>
          <Waiting what="Reading the new data…" />
        </DialogContent>
      ) : look.data.tables.length > 0 ? (
        <>
          <DialogContent>
            <Typography sx={{ mb: 1 }}>Which table of {look.data.shownPath}?</Typography>
            {look.data.tables.map((name) => (
              <Button key={name} variant="outlined" onClick={() => setTable(name)} sx={{ mr: 1, mb: 1 }}>
                {name}
              </Button>
            ))}
          </DialogContent>
          <Actions onAgain={again} onClose={onClose} />
        </>
      ) : (
        <Mapping
          view={look.data}
          onAgain={again}
          onClose={onClose}
          onReplace={(layers, fields) => api.replaceData(projectKey, { layers, target, table, fields }).then(onDone)}
        />
      )}
    </Dialog>
  );
}

function Actions({ onAgain, onClose, children }: { onAgain: (() => void) | null; onClose: () => void; children?: React.ReactNode }) {
  return (
    <DialogActions sx={{ px: 3, pb: 2 }}>
      {onAgain && <Button onClick={onAgain}>Choose other data</Button>}
      <Button onClick={onClose}>Cancel</Button>
      {children}
    </DialogActions>
  );
}

interface MappingProps {
  readonly view: ReplacementView;
  readonly onAgain: (() => void) | null;
  readonly onClose: () => void;
  readonly onReplace: (layers: readonly string[], fields: Readonly<Record<string, string>>) => Promise<void>;
}

function Mapping({ view, onAgain, onClose, onReplace }: MappingProps) {
  const [first, ...others] = view.layers;
  const [fields, setFields] = useState<Readonly<Record<string, string>>>(
    Object.fromEntries(view.needs.flatMap((n) => (n.proposed === null ? [] : [[n.field, n.proposed]]))),
  );
  const [left, toggle] = useToggled();
  const chosen = [first!, ...others.filter((l) => !left.has(l.key))];
  const needed = new Set(chosen.flatMap((l) => l.needs));
  const open = [...needed].filter((field) => !fields[field]);
  const replace = useMutation({
    mutationFn: () =>
      onReplace(
        chosen.map((l) => l.key),
        fields,
      ),
  });
  return (
    <>
      <DialogContent>
        <PathText path={view.shownPath} most={88} />
        <Typography variant="body2" color="text.secondary">
          {toldFacts(view)}
        </Typography>
        {view.warnings.map((w) => (
          <Alert key={w} severity="warning" variant="outlined" sx={{ mt: 1 }}>
            {w}
          </Alert>
        ))}
        {view.needs.length === 0 ? (
          <Typography sx={{ mt: 2 }}>Filter, label and style use no fields: nothing is to be mapped.</Typography>
        ) : (
          <FieldTable
            needs={view.needs.filter((n) => needed.has(n.field))}
            view={view}
            fields={fields}
            onChoose={(field, to) => setFields((before) => ({ ...before, [field]: to }))}
          />
        )}
        <Typography variant="h3" sx={{ mt: 2 }}>
          What will be written
        </Typography>
        <RewriteList
          rewrites={view.layers.map((l) => ({
            ...l,
            label: `${l.title} in ${l.mapTitle}${l === first ? '' : ', which drew the same data'}`,
          }))}
          first={first!.key}
          left={left}
          onToggle={toggle}
        />
        <Typography variant="body2" color="text.secondary">
          The address, the names of the fields above, and what the map remembers of its data. A style in a file of its own is copied first.
        </Typography>
        {replace.isError && <ErrorState error={replace.error} />}
      </DialogContent>
      <Actions onAgain={onAgain} onClose={onClose}>
        {open.length > 0 && (
          <Typography variant="body2" color="text.secondary" role="status">
            {many(open.length, 'field')} still to be mapped
          </Typography>
        )}
        <Button variant="contained" disabled={open.length > 0 || replace.isPending} onClick={() => replace.mutate()}>
          Use it in {many(chosen.length, 'layer')}
        </Button>
      </Actions>
    </>
  );
}

function FieldTable({
  needs,
  view,
  fields,
  onChoose,
}: {
  needs: readonly FieldToMap[];
  view: ReplacementView;
  fields: Readonly<Record<string, string>>;
  onChoose: (field: string, to: string) => void;
}) {
  return (
    <Table size="small" sx={{ mt: 2 }} aria-label="Fields to map">
      <TableHead>
        <TableRow>
          <TableCell>The map uses</TableCell>
          <TableCell>For</TableCell>
          <TableCell>Field of the new data</TableCell>
        </TableRow>
      </TableHead>
      <TableBody>
        {needs.map((n) => (
          <TableRow key={n.field}>
            <TableCell>
              <span className="mono">{n.field}</span> {n.type && <span style={{ color: 'var(--soft)' }}>{n.type}</span>}
            </TableCell>
            <TableCell>{n.uses.join(', ')}</TableCell>
            <TableCell>
              <TextField
                select
                size="small"
                fullWidth
                value={fields[n.field] ?? ''}
                onChange={(e) => onChoose(n.field, e.target.value)}
                slotProps={{ htmlInput: { 'aria-label': `Field for ${n.field}` } }}
                error={!fields[n.field]}
                helperText={fields[n.field] ? kindChange(n, view, fields[n.field]!) : 'Nothing is like it: choose one.'}
              >
                {view.fields.map((f) => (
                  <MenuItem key={f.name} value={f.name} className="mono">
                    {f.name} · {f.type}
                  </MenuItem>
                ))}
              </TextField>
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}

/** Told where the kind of value changes: a comparison in a filter may fail by it. */
function kindChange(need: FieldToMap, view: ReplacementView, to: string): string | null {
  const type = view.fields.find((f) => f.name === to)?.type;
  return need.type !== null && type !== undefined && type !== need.type ? `was ${need.type}, is ${type}` : null;
}

const toldFacts = ({ facts: f }: ReplacementView): string =>
  f === null
    ? ''
    : [
        f.format,
        kindWord(f.geometry),
        f.count === null ? '' : many(f.count, 'record'),
        f.fields ? many(f.fields.length, 'field') : '',
        f.vertices === null ? '' : `${number(f.vertices)} vertices`,
        f.crs ?? '',
        f.modified ? `changed ${day(f.modified)}` : '',
      ]
        .filter(Boolean)
        .join(', ');
