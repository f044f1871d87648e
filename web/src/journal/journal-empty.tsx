import { Box, Button, Stack, Typography } from '@mui/material';
import { Link } from 'react-router';
import { Sheet } from '../parts/states.js';

const COURSE: readonly (readonly [string, string])[] = [
  [
    'Written down first',
    'Before a file is touched, it stands here what is done to which. What the power cuts off is finished or taken back at the next start.',
  ],
  ['Made beside', 'New content is made beside the old, read back and compared, and takes its place in one move.'],
  ['Kept', 'What was deleted or replaced lies in the trash of its project.'],
  [
    'Taken back',
    'Undo brings it back, in any order. It tells before what it leaves alone: files that were changed since by somebody else.',
  ],
];

const FIRST: readonly (readonly [string, string, string])[] = [
  ['/mend', 'Mend layers', 'Layers that lost their data find it again'],
  ['/new', 'Make a project', 'Folders, a working geodatabase, a first map'],
  ['/receive', 'Receive a bundle', 'A project that was sent is unpacked and checked'],
];

/** Nothing was changed yet: what happens when something is, and where to begin. */
export const JournalEmpty = () => (
  <Stack spacing={2}>
    <Sheet sx={{ p: 2.5 }}>
      <Typography variant="h2">Nothing was changed yet</Typography>
      <Typography color="text.secondary" sx={{ mb: 1.5, maxWidth: 640 }}>
        What Root Map changes on disk is written down here, and each change can be taken back, and done again.
      </Typography>
      <Box
        component="ol"
        aria-label="What a change goes through"
        sx={{
          m: 0,
          p: 0,
          listStyle: 'none',
          display: 'grid',
          gap: 2,
          gridTemplateColumns: 'repeat(auto-fit, minmax(min(100%, 180px), 1fr))',
        }}
      >
        {COURSE.map(([name, text], i) => (
          <Box component="li" key={name} sx={{ borderTop: '3px solid var(--spruce)', pt: 1 }}>
            <Typography sx={{ fontWeight: 700 }}>
              {i + 1}. {name}
            </Typography>
            <Typography variant="body2" color="text.secondary">
              {text}
            </Typography>
          </Box>
        ))}
      </Box>
    </Sheet>
    <Sheet sx={{ p: 2.5 }}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        What could be the first line
      </Typography>
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {FIRST.map(([to, name, text]) => (
          <Stack
            component="li"
            key={to}
            direction="row"
            useFlexGap
            spacing={2}
            sx={{ py: 1, borderTop: '1px solid var(--rule)', alignItems: 'center', flexWrap: 'wrap' }}
          >
            <Button component={Link} to={to} variant="outlined" sx={{ minWidth: 170 }}>
              {name}
            </Button>
            <Typography color="text.secondary">{text}</Typography>
          </Stack>
        ))}
      </Box>
    </Sheet>
  </Stack>
);
