import { Box, Typography } from '@mui/material';
import type { Topic } from './topics.js';

/** What a page is for, what is done there, its keys, and what can go wrong. */
export function TopicText({ topic }: { topic: Topic }) {
  return (
    <>
      <Typography sx={{ mb: 1 }}>{topic.purpose}</Typography>
      <Box component="ol" sx={{ m: 0, mb: 1, pl: 2.5, '& li': { mb: 0.5 } }}>
        {topic.steps.map((step) => (
          <li key={step}>{step}</li>
        ))}
      </Box>
      {topic.keys.length > 0 && <Pairs label="Keys" pairs={topic.keys} isMono />}
      <Pairs label="What can go wrong" pairs={topic.troubles} />
    </>
  );
}

const Pairs = ({ label, pairs, isMono = false }: { label: string; pairs: readonly (readonly [string, string])[]; isMono?: boolean }) => (
  <>
    <Typography variant="h3" component="h3" sx={{ mt: 1.5, mb: 0.5 }}>
      {label}
    </Typography>
    <Box component="dl" sx={{ m: 0, display: 'grid', gridTemplateColumns: 'minmax(90px, auto) 1fr', columnGap: 1.5, rowGap: 0.5 }}>
      {pairs.map(([name, words]) => (
        <Box key={name} sx={{ display: 'contents' }}>
          <Box component="dt" className={isMono ? 'mono' : ''} sx={{ fontWeight: isMono ? 400 : 650, maxWidth: 170 }}>
            {name}
          </Box>
          <Box component="dd" sx={{ m: 0 }}>
            {words}
          </Box>
        </Box>
      ))}
    </Box>
  </>
);
