import { isInOrder } from '@rootmap/core';
import { Box, Button, Stack, TextField, Typography } from '@mui/material';
import { Link } from 'react-router';
import type { PackPreview, SendCheckView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { alsoNotAsked } from '../parts/tether.js';
import { Tag } from '../parts/states.js';
import { Step } from './step.js';
import type { Sending } from './use-send.js';

const TITLES: Readonly<Record<SendCheckView['check'], string>> = {
  layers: 'Layers on arrival',
  sheets: 'Quality sheets that the project asks for',
  unsaved: 'Unsaved maps',
  names: 'Names and lengths of paths',
  licences: 'Licences',
  origins: 'Origins',
  personal: 'Names of persons',
  secrets: 'Keys and passwords',
};
const ORDER = Object.keys(TITLES) as SendCheckView['check'][];

/** What was tried on the bundle alone, and what is to be known before it goes; each with the way to put it right. */
export function ChecksStep({ sending, preview, projectKey }: { sending: Sending; preview: PackPreview; projectKey: string }) {
  const broken = preview.layers.filter((l) => !isInOrder(l.state)).length;
  const notAsked = preview.layers.filter((l) => l.state === 'not-asked').length;
  const sound = preview.layers.length - broken - notAsked;
  return (
    <Step
      number={3}
      title="Checks"
      subtitle={
        sending.send.layer
          ? 'no map goes along, so no layer is tried'
          : broken
            ? `${many(broken, 'layer')} will not be sound on arrival`
            : `all ${many(sound, 'layer')} sound on arrival${alsoNotAsked(notAsked)}`
      }
    >
      {!sending.send.layer && (
        <Box>
          <Tag tone={broken ? 'ochre' : 'spruce'}>
            {sound} of {many(preview.layers.length, 'layer')} sound
            {alsoNotAsked(notAsked)}
          </Tag>
          <Typography variant="body2" color="text.secondary" sx={{ mt: 0.5 }}>
            Rehearsed from the bundle alone: in a folder of another name, on a machine where nothing else is.
          </Typography>
        </Box>
      )}
      {ORDER.map((check) => {
        const rows = preview.checks.filter((c) => c.check === check);
        return rows.length > 0 ? <Group key={check} title={TITLES[check]} rows={rows} sending={sending} projectKey={projectKey} /> : null;
      })}
      {preview.services.length > 0 && (
        <Box>
          <Typography variant="h3">Services, not carried</Typography>
          {preview.services.map((s) => (
            <Box key={s.map + s.title} sx={{ py: 0.25 }}>
              {s.title}
              <Typography variant="body2" color="text.secondary" sx={{ overflowWrap: 'anywhere' }}>
                {s.address}
              </Typography>
            </Box>
          ))}
        </Box>
      )}
      <TextField
        type="number"
        size="small"
        label="Characters of the folder it is unpacked in"
        value={sending.send.rootCharacters}
        onChange={(e) => sending.set({ rootCharacters: Math.max(1, Math.min(4000, Math.round(Number(e.target.value)) || 1)) })}
        helperText="Windows opens paths of up to 259 characters."
      />
    </Step>
  );
}

const MOST_ROWS = 5;

function Group({
  title,
  rows,
  sending,
  projectKey,
}: {
  title: string;
  rows: readonly SendCheckView[];
  sending: Sending;
  projectKey: string;
}) {
  const isNote = rows.every((r) => r.isNote);
  const fixes = [...new Set(rows.map((r) => r.fix))].filter((f) => f !== null);
  return (
    <Box>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'center' }}>
        <Typography variant="h3">{title}</Typography>
        <Tag tone={isNote ? 'slate' : 'plum'}>{isNote ? many(rows.length, 'note') : rows.length}</Tag>
      </Stack>
      <Stack direction="row" sx={{ flexWrap: 'wrap', gap: 0.5 }}>
        {fixes.map((fix) => (
          <Fix key={fix} fix={fix} sending={sending} projectKey={projectKey} rows={rows} />
        ))}
      </Stack>
      {rows.slice(0, MOST_ROWS).map((r) => (
        <Box key={r.path + r.why} sx={{ py: 0.25 }}>
          <PathText path={r.path} most={36} />
          <Typography variant="body2" color="text.secondary">
            {r.why}
          </Typography>
        </Box>
      ))}
      {rows.length > MOST_ROWS && (
        <Typography variant="body2" color="text.secondary">
          and {many(rows.length - MOST_ROWS, 'more', 'more')}
        </Typography>
      )}
    </Box>
  );
}

function Fix({
  fix,
  sending,
  projectKey,
  rows,
}: {
  fix: NonNullable<SendCheckView['fix']>;
  sending: Sending;
  projectKey: string;
  rows: readonly SendCheckView[];
}) {
  if (fix === 'along') return <Button onClick={() => sending.set({ along: 'all' })}>Bring the data along</Button>;
  const map = rows.find((r) => r.fix === 'save')?.path;
  const to = {
    mend: [`/p/${projectKey}/mend`, 'Mend first'],
    names: [`/p/${projectKey}/folders?view=names`, 'Look at names'],
    origin: [`/p/${projectKey}/sources`, 'Write the origins'],
    quality: [`/p/${projectKey}/quality`, 'Check and review them'],
    save: [`/p/${projectKey}/maps/edit?map=${encodeURIComponent(map ?? '')}`, 'Open the map to save it'],
  }[fix];
  return (
    <Button component={Link} to={to[0]!}>
      {to[1]}
    </Button>
  );
}
