import { Box } from '@mui/material';
import { NAME_TARGETS, refusedBy, type NameSort } from '@rootmap/core';

/** What does not take a name, as it is typed, and on request what takes which names and who says so. */
export function NameTargets({ sort, name }: { sort: NameSort; name: string }) {
  const refused = name === '' ? [] : refusedBy(sort, name);
  return (
    <Box sx={{ fontSize: 13, color: 'var(--soft)' }}>
      {refused.length === 0 && name !== '' && 'Everything below takes this name.'}
      {refused.map(({ target, why }) => (
        <Box key={target} sx={{ color: 'var(--ochre-ink, var(--ink))' }}>
          Not taken by {target}: {why}.
        </Box>
      ))}
      <Box component="details">
        <summary>What takes which names</summary>
        <TargetList sort={sort} />
      </Box>
    </Box>
  );
}

/** What has to take names of a sort, what it takes, and the standard that says so. */
export const TargetList = ({ sort }: { sort: NameSort }) => (
  <Box component="ul" sx={{ m: 0, pl: 2.5 }}>
    {NAME_TARGETS[sort].map(({ target, takes, source }) => (
      <li key={target}>
        {target}: {takes} <span style={{ color: 'var(--soft)' }}>({source})</span>
      </li>
    ))}
  </Box>
);
