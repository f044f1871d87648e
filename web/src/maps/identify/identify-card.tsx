import { mdiClose } from '@mdi/js';
import { Box, Button, ButtonBase, IconButton, LinearProgress, Stack, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { api } from '../../api/client.js';
import { keys } from '../../api/queries.js';
import { copyText } from '../../parts/copy-text.js';
import { many } from '../../parts/format.js';
import { Icon } from '../../parts/icon.js';
import { sentenceOf } from '../../parts/states.js';
import { useLatest } from '../../parts/use-latest.js';
import { MAP_CARD } from '../edit/map-card-style.js';
import { positionText } from '../edit/position-text.js';
import type { MapWork } from '../edit/use-map-work.js';
import { hitsOf, shownText, type Hit } from './hits.js';
import type { useIdentify } from './use-identify.js';
import { asText, Values, type NamedValue } from './values.js';

interface Props {
  readonly work: MapWork;
  readonly identify: ReturnType<typeof useIdentify>;
  readonly onTable: (layer: string) => void;
}

/** What stands at the place that was clicked: shapes of each layer with their values, the pixel of a raster. */
export function IdentifyCard({ work, identify, onTable }: Props) {
  const { asked, found, error, isWaiting, close } = identify;
  const { chosen, editor, plane } = work;
  const [picked, setPicked] = useState<string | null>(null);
  const groups = found && asked ? hitsOf(editor.draft.layers, found, asked.ofServices) : [];
  const all = groups.flatMap((g) => g.hits);
  const hit = all.find((h) => h.key === picked) ?? all[0] ?? null;
  const leave = (): void => (close(), chosen.clear());
  useEscape(leave);
  useShown(hit, chosen);
  if (!asked) return null;
  return (
    <Stack component="section" aria-label="What is here" sx={{ ...MAP_CARD, width: 350, maxHeight: 'calc(100% - 90px)' }}>
      <Stack direction="row" sx={{ gap: 1, alignItems: 'center' }}>
        <Box sx={{ flex: 1 }}>
          <Typography component="h2" sx={{ fontSize: 15, fontWeight: 700 }}>
            What is here
          </Typography>
          <Typography className="mono" sx={{ fontSize: 12, color: 'text.secondary' }}>
            {positionText(asked.at, plane.crs?.unit ?? null)}
          </Typography>
        </Box>
        <IconButton size="small" aria-label="Close what is here" onClick={leave}>
          <Icon path={mdiClose} />
        </IconButton>
      </Stack>
      {isWaiting && <LinearProgress aria-label="Looking" />}
      {error && <Typography sx={{ color: 'var(--plum)' }}>{sentenceOf(error)}</Typography>}
      {found && !isWaiting && all.length === 0 && (
        <Typography variant="body2" color="text.secondary" role="status">
          Nothing that is drawn stands here. Layers that are off, beyond their scales or pictures of a server are not asked.
        </Typography>
      )}
      <Box sx={{ overflow: 'auto', maxHeight: 170, flex: 'none' }}>
        {groups.map((g) => (
          <Box key={g.layer.id} role="group" aria-label={g.layer.title}>
            <Typography sx={{ fontSize: 12, fontWeight: 700, pt: 0.5 }}>{g.layer.title}</Typography>
            {g.problem !== null && <Typography sx={{ fontSize: 12.5, color: 'var(--plum)' }}>{g.problem}</Typography>}
            {g.hits.map((h) => (
              <HitButton key={h.key} hit={h} isPicked={h === hit} onPick={() => setPicked(h.key)} />
            ))}
            {g.more > 0 && <Typography variant="body2">and {many(g.more, 'more record')} so near: come nearer</Typography>}
          </Box>
        ))}
      </Box>
      {hit?.kind === 'values' && <Told values={hit.values} />}
      {hit?.kind === 'record' && <RecordValues work={work} hit={hit} onTable={() => onTable(hit.layer)} />}
    </Stack>
  );
}

/** The record that is read is the one that the map shows, and that the table chooses. */
function useShown(hit: Hit | null, chosen: MapWork['chosen']): void {
  const live = useLatest(chosen);
  const [layer, record] = hit?.kind === 'record' ? [hit.layer, hit.record] : [null, null];
  useEffect(() => {
    if (layer !== null && record !== null) live.current.choose(layer, record, false);
    else live.current.clear();
  }, [layer, record, live]);
}

function useEscape(leave: () => void): void {
  const live = useLatest(leave);
  useEffect(() => {
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === 'Escape') live.current();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [live]);
}

const HitButton = ({ hit, isPicked, onPick }: { hit: Hit; isPicked: boolean; onPick: () => void }) => (
  <ButtonBase
    aria-pressed={isPicked}
    onClick={onPick}
    sx={{
      display: 'block',
      width: '100%',
      textAlign: 'left',
      fontFamily: 'inherit',
      fontSize: 13,
      px: 1,
      py: 0.4,
      minHeight: 24,
      ...(isPicked ? { bgcolor: 'var(--ochre-wash)', boxShadow: 'inset 3px 0 0 var(--ochre)' } : {}),
    }}
  >
    {hit.words}
  </ButtonBase>
);

interface RecordProps {
  readonly work: MapWork;
  readonly hit: Extract<Hit, { kind: 'record' }>;
  readonly onTable: () => void;
}

function RecordValues({ work, hit, onTable }: RecordProps) {
  const { project, editor, known, chosen, scene } = work;
  const layer = editor.draft.layers.find((l) => l.id === hit.layer);
  const dataset = layer ? (known.factsOf(layer).data?.dataset ?? null) : null;
  const { data, error } = useQuery({
    queryKey: keys.of(project.key, 'records', dataset, hit.record),
    queryFn: ({ signal }) => api.records(project.key, { dataset: dataset!, records: [hit.record] }, signal),
    enabled: dataset !== null,
    retry: false,
  });
  const record = data?.records[0];
  if (error) return <Typography sx={{ color: 'var(--plum)' }}>{sentenceOf(error)}</Typography>;
  if (!data) return <LinearProgress aria-label="Reading its values" />;
  if (!record)
    return <Typography variant="body2">This record is not in the data any more: it was changed since the map was drawn.</Typography>;
  const values = data.fields.map((f, i) => ({ name: f.name, value: shownText(record.values[i] ?? null) }));
  const { box } = chosen;
  return (
    <Told values={values}>
      <Button size="small" disabled={!box} onClick={() => box && scene.current?.fit(box)}>
        Zoom to it
      </Button>
      <Button size="small" onClick={onTable}>
        See it in its table
      </Button>
    </Told>
  );
}

const Told = ({ values, children }: { values: readonly NamedValue[]; children?: React.ReactNode }) => (
  <>
    {values.length === 0 ? <Typography variant="body2">It has no fields.</Typography> : <Values values={values} />}
    <Stack direction="row" sx={{ gap: 0.5, flexWrap: 'wrap' }}>
      {values.length > 0 && (
        <Button size="small" onClick={() => void copyText(asText(values))}>
          Copy all
        </Button>
      )}
      {children}
    </Stack>
  </>
);
