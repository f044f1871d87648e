import { Box, Button, FormControlLabel, Stack, Switch, TextField, Typography } from '@mui/material';
import { useEffect, useRef, useState } from 'react';
import { areSingleKeysOn, setSingleKeys } from '../frame/single-keys.js';
import { EmptyState, Sheet } from '../parts/states.js';
import { Tether, type Bond } from '../parts/tether.js';
import { useUrlState } from '../parts/use-url-state.js';
import { TopicText } from './topic-text.js';
import { topicsWith, type Topic } from './topics.js';

const MARKS: readonly [Bond, string][] = [
  [{ stored: 'relative', reach: 'inside', state: 'sound' }, 'Thin line, filled disc: stored relatively, data inside the root, sound.'],
  [{ stored: 'relative', reach: 'linked', state: 'sound' }, 'Double line: through a linked folder.'],
  [{ stored: 'relative', reach: 'outside', state: 'sound' }, 'A bar across: stored relatively, but it leaves the root without a link.'],
  [{ stored: 'absolute', reach: 'inside', state: 'sound' }, 'Thick line: stored absolutely, so it names one machine.'],
  [{ stored: 'service', reach: 'service', state: 'sound' }, 'Dotted line: a service on the network, asked and answering.'],
  [{ stored: 'service', reach: 'service', state: 'not-asked' }, 'Dashed ring with a point: a service that was not asked yet.'],
  [{ stored: 'relative', reach: 'inside', state: 'different' }, 'Diamond: something is there, but not the data it was.'],
  [{ stored: 'relative', reach: 'inside', state: 'incomplete' }, 'Half disc: a needed file of the dataset is missing.'],
  [{ stored: 'relative', reach: 'inside', state: 'adrift' }, 'Open ring, apart from its line: nothing is there.'],
  [{ stored: 'absolute', reach: 'linked', state: 'absent' }, 'Ring with a slash: its place is not here now.'],
  [{ stored: 'relative', reach: 'inside', state: 'unreadable' }, 'Square with a cross: damaged, or not permitted.'],
];

const KEYS: readonly [string, string][] = [
  ['/', 'Find data, a page, or what to do'],
  ['?', 'Help for the page that is open'],
  ['↑ ↓', 'From layer to layer in the root diagram and in Mend'],
  ['Enter', 'Go where the marked layer can be put right'],
  ['Esc', 'Close what floats, take the mark off'],
];

function SingleKeysSwitch() {
  const [on, setOn] = useState(areSingleKeysOn);
  const change = (next: boolean): void => {
    setSingleKeys(next);
    setOn(next);
  };
  return (
    <FormControlLabel
      control={<Switch size="small" checked={on} onChange={(_, next) => change(next)} />}
      label="The keys / and ? go to Find and to Help"
    />
  );
}

/** Help for every page, searched; how a tether is read; the keys. */
export function HelpPage() {
  const [search, set] = useUrlState();
  const text = search.get('find') ?? '';
  const topics = topicsWith(text);
  return (
    <Box
      sx={{
        p: { xs: 1.5, md: 3 },
        overflow: 'auto',
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 5fr) minmax(0, 4fr)' },
        gap: 3,
        alignItems: 'start',
      }}
    >
      <Box>
        <Typography variant="h1" sx={{ mb: 1.5 }}>
          Help
        </Typography>
        <TextField
          size="small"
          type="search"
          placeholder="A word: undo, stick, licence …"
          value={text}
          onChange={(e) => set({ find: e.target.value })}
          slotProps={{ htmlInput: { 'aria-label': 'Find in the help' } }}
          sx={{ mb: 1.5, width: 300 }}
        />
        <Stack spacing={1}>
          {topics.map((t) => (
            <TopicSheet
              key={t.id}
              topic={t}
              isOpen={topics.length === 1 || search.get('topic') === t.id}
              onToggle={(id) => set({ topic: id })}
            />
          ))}
        </Stack>
        {topics.length === 0 && (
          <EmptyState title="Nothing about that" action={<Button onClick={() => set({ find: null })}>Show all of the help</Button>}>
            No page has a help with all of these words. Try one word of them.
          </EmptyState>
        )}
      </Box>
      <Stack spacing={2}>
        <TetherHelp />
        <KeyHelp />
      </Stack>
    </Box>
  );
}

interface TopicSheetProps {
  readonly topic: Topic;
  readonly isOpen: boolean;
  readonly onToggle: (id: string | null) => void;
}

function TopicSheet({ topic, isOpen, onToggle }: TopicSheetProps) {
  const sheet = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (isOpen) sheet.current?.scrollIntoView({ block: 'nearest' });
  }, [isOpen]);
  return (
    <Sheet>
      <Box ref={sheet} component="section" aria-label={`Help: ${topic.title}`} sx={{ p: 1.5 }}>
        <Button
          fullWidth
          aria-expanded={isOpen}
          onClick={() => onToggle(isOpen ? null : topic.id)}
          sx={{ justifyContent: 'space-between', textAlign: 'left', color: 'var(--ink)', fontSize: 14 }}
        >
          {topic.title}
          <span aria-hidden>{isOpen ? '▾' : '▸'}</span>
        </Button>
        {isOpen ? (
          <Box sx={{ px: 1, pt: 0.5 }}>
            <TopicText topic={topic} />
          </Box>
        ) : (
          <Typography variant="body2" color="text.secondary" sx={{ px: 1 }}>
            {topic.purpose}
          </Typography>
        )}
      </Box>
    </Sheet>
  );
}

const TetherHelp = () => (
  <Box component="section">
    <Typography variant="h1" component="h2" sx={{ mb: 1 }}>
      How to read a tether
    </Typography>
    <Typography sx={{ mb: 1 }}>
      A map file holds no data: each layer only says where its data is. A tether draws that saying, from the layer (dot) to its data (end).
    </Typography>
    <Sheet sx={{ p: 2 }}>
      {MARKS.map(([bond, words]) => (
        <Stack key={words} direction="row" spacing={2} sx={{ py: 0.5, alignItems: 'center' }}>
          <Tether bond={bond} size="large" />
          <Typography>{words}</Typography>
        </Stack>
      ))}
    </Sheet>
  </Box>
);

const KeyHelp = () => (
  <Box component="section">
    <Typography variant="h1" component="h2" sx={{ mb: 1 }}>
      Keys
    </Typography>
    <Sheet sx={{ p: 2 }}>
      {KEYS.map(([key, words]) => (
        <Stack key={key} direction="row" spacing={2} sx={{ py: 0.5 }}>
          <Box className="mono" sx={{ width: 84 }}>
            {key}
          </Box>
          <Typography>{words}</Typography>
        </Stack>
      ))}
      <SingleKeysSwitch />
    </Sheet>
  </Box>
);
