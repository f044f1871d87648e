import { Box, Button, Checkbox, FormControlLabel, MenuItem, Radio, RadioGroup, Stack, TextField, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { EditionState } from '@rootmap/core';
import type { BundleView, EditionView, JobView, PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { dateTime, many } from '../parts/format.js';
import { ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import { VirtualTable } from '../parts/virtual-table.js';

const SAID: Readonly<Record<Exclude<EditionState, 'same'>, string>> = {
  changed: 'changed by the sender',
  added: 'not here',
  removed: 'not in it any more',
  'here-changed': 'changed here since',
  'here-added': 'only here',
  'here-removed': 'taken away here since',
  both: 'changed by both',
  differs: 'differs; nothing tells who changed it',
};
const WORDS = Object.entries(SAID) as [Exclude<EditionState, 'same'>, string][];

interface Props {
  readonly bundle: PathRequest;
  /** Copies of the project that are here; at least one. */
  readonly here: BundleView['here'];
  readonly onStarted: (job: JobView<'receive'>) => void;
  readonly isRunning: boolean;
}

/** A project of the bundle is here: what is newer, file by file, and what was changed here since; then taken over as one change. */
export function EditionPanel({ bundle, here, onStarted, isRunning }: Props) {
  const [chosen, setChosen] = useState<string | null>(null);
  const { key, root } = here.find((h) => h.key === chosen) ?? here[0]!;
  const compared = useQuery({
    queryKey: ['edition', bundle, key],
    queryFn: ({ signal }) => api.compareEdition({ bundle, key }, signal),
    retry: false,
  });
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2">This project is here already</Typography>
      {here.length === 1 ? (
        <Typography color="text.secondary" className="mono" sx={{ mb: 1 }}>
          {root}
        </Typography>
      ) : (
        <TextField select size="small" label="Compare with" value={key} onChange={(e) => setChosen(e.target.value)} sx={{ my: 1 }}>
          {here.map((h) => (
            <MenuItem key={h.key} value={h.key}>
              {h.root}
            </MenuItem>
          ))}
        </TextField>
      )}
      {compared.isError && <ErrorState error={compared.error} onRetry={() => void compared.refetch()} />}
      {compared.isPending && <Waiting what="Comparing file by file…" />}
      {compared.data && (
        <Compared view={compared.data} bundle={bundle} key={key} projectKey={key} onStarted={onStarted} isRunning={isRunning} />
      )}
    </Sheet>
  );
}

function Compared({
  view,
  bundle,
  projectKey,
  onStarted,
  isRunning,
}: { view: EditionView; bundle: PathRequest; projectKey: string } & Pick<Props, 'onStarted' | 'isRunning'>) {
  const [onConflict, setOnConflict] = useState<'ours' | 'theirs'>('ours');
  const [removes, setRemoves] = useState(false);
  const take = useMutation({ mutationFn: () => api.takeOver({ bundle, key: projectKey, onConflict, removes }), onSuccess: onStarted });
  const { counts } = view;
  const contested = counts.both + counts.differs;
  const shared = counts.same + counts.changed + counts['here-changed'] + contested;
  const put = counts.changed + counts.added + (onConflict === 'theirs' ? contested : 0);
  if (shared < counts.added)
    return (
      <Typography>
        It is laid out in other folders than this one: {many(shared, 'file')} of {shared + counts.added} stand at the same path. Receive it
        beside it.
      </Typography>
    );
  return (
    <Stack spacing={1.25}>
      <Typography variant="body2">
        {view.before
          ? `Compared with what was here when ${view.before.bundle} went or came, ${dateTime(view.before.ms)}.`
          : 'What was here when it was sent or received last is not known, so nothing tells who changed what.'}
      </Typography>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.75 }}>
        <Tag tone="slate">{many(counts.same, 'file')} the same</Tag>
        {WORDS.filter(([state]) => counts[state] > 0).map(([state, said]) => (
          <Tag key={state} tone={state === 'both' || state === 'differs' ? 'plum' : state.startsWith('here') ? 'ochre' : 'spruce'}>
            {counts[state]} {said}
          </Tag>
        ))}
      </Box>
      {view.rows.length > 0 && <ComparedFiles view={view} />}
      {contested > 0 && (
        <RadioGroup
          aria-label="Where both changed a file"
          value={onConflict}
          onChange={(e) => setOnConflict(e.target.value === 'theirs' ? 'theirs' : 'ours')}
        >
          <FormControlLabel value="ours" control={<Radio size="small" />} label={`Keep ours in ${many(contested, 'contested file')}`} />
          <FormControlLabel value="theirs" control={<Radio size="small" />} label="Take theirs; ours go to the trash" />
        </RadioGroup>
      )}
      {counts.removed > 0 && (
        <FormControlLabel
          control={<Checkbox size="small" checked={removes} onChange={(e) => setRemoves(e.target.checked)} />}
          label={`Also put into the trash what it has no more: ${many(counts.removed, 'file')}`}
        />
      )}
      <Box>
        <Button
          variant="contained"
          disabled={isRunning || take.isPending || put + (removes ? counts.removed : 0) === 0}
          onClick={() => take.mutate()}
        >
          Take over {many(put, 'file')}
        </Button>
        <Typography variant="body2" color="text.secondary" sx={{ mt: 0.5 }}>
          One change, which can be undone; what was changed here alone stays.
        </Typography>
      </Box>
      {take.isError && <ErrorState error={take.error} />}
    </Stack>
  );
}

/** Files that are not the same, each with what is the matter. */
const ComparedFiles = ({ view }: { view: EditionView }) => (
  <Box sx={{ display: 'flex', height: 200 }}>
    <VirtualTable
      label="Files that are not the same"
      items={view.rows}
      keyOf={(row) => row.path}
      rowHeight={28}
      columns="minmax(0, 1.4fr) minmax(0, 1fr)"
      sx={{ border: '1px solid var(--rule)', borderRadius: '4px' }}
      cells={(row) => (
        <>
          <Box role="cell" className="mono" title={row.path} sx={{ overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis' }}>
            {row.path}
          </Box>
          <Box role="cell">{row.state === 'same' ? '' : SAID[row.state]}</Box>
        </>
      )}
    />
  </Box>
);
