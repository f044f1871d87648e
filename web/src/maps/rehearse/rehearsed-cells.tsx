import { Box } from '@mui/material';
import type { RehearsedView } from '@rootmap/core/contract';
import { PathText } from '../../parts/path-text.js';
import { STATE_COLOUR, STATE_WORD, Tether } from '../../parts/tether.js';

const FIX_WORDS = {
  relative: 'store it relatively',
  'bring-in': 'bring its data in',
  respell: 'spell it as on disk',
  shorten: 'shorten its names',
} as const;

const CUT = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

/** Before and after of one layer, and what would keep it. */
export function RehearsedCells({ l, showMap }: { l: RehearsedView; showMap: boolean }) {
  const bond = { stored: l.stored, reach: l.reach };
  return (
    <>
      <Box role="cell" sx={{ minWidth: 0 }}>
        <Box sx={{ fontWeight: 650, ...CUT }}>{l.title}</Box>
        <Box sx={{ color: 'text.secondary', fontSize: 12, ...CUT }}>{showMap ? l.mapTitle : `${l.stored}, ${l.reach}`}</Box>
      </Box>
      <Box role="cell" sx={{ display: 'flex', alignItems: 'center' }}>
        <Tether bond={{ ...bond, state: l.before }} />
        <Box component="span" aria-hidden sx={{ color: 'text.secondary', fontSize: 12, px: 0.25 }}>
          →
        </Box>
        <Tether bond={{ ...bond, state: l.after }} />
      </Box>
      <Box role="cell" sx={{ minWidth: 0 }}>
        <Box sx={{ color: l.after === 'sound' ? 'inherit' : STATE_COLOUR[l.after], ...CUT }} title={l.detail ?? undefined}>
          {l.before === l.after
            ? `${STATE_WORD[l.after]}${l.after === 'sound' ? '' : ', as it is now'}`
            : `${STATE_WORD[l.before]} → ${STATE_WORD[l.after]}`}
          {l.detail ? `: ${l.detail}` : ''}
          {l.isBroken && l.fix ? ` · ${FIX_WORDS[l.fix]}` : ''}
          {l.lostStyle !== null && (
            <Box component="span" title={l.lostStyle} sx={{ color: 'var(--plum)' }}>
              {' · its style would be lost'}
            </Box>
          )}
        </Box>
        <PathText path={l.leadsTo ?? 'nowhere'} most={60} isInRow />
      </Box>
    </>
  );
}
