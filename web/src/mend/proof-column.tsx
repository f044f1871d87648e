import { Box, Button, Stack, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { CandidateView, EditRequest, MendLayerView } from '@rootmap/core/contract';
import { day } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { useSubject } from './subject.js';
import { Companions } from './companions.js';
import { Facts } from './facts-table.js';
import { KnownOf, toldOrigin } from './known-of.js';
import { OccupancyMap } from './occupancy-map.js';
import { Section } from './section.js';

const MOST_OTHERS = 4;

interface Props {
  readonly layer: MendLayerView;
  readonly busy: boolean;
  readonly onPoint: () => void;
  /** That candidate, and no other, for this layer. */
  readonly onUse: (path: string) => void;
  readonly onReject: (path: string) => void;
  readonly onEdit: (request: EditRequest) => void;
  /** Other data on purpose; `isWhatStandsThere`: that which has its name now. */
  readonly onReplace: (isWhatStandsThere: boolean) => void;
  readonly children: ReactNode;
}

/** What is the matter, remembered against found, what the map needs of it, and exactly what will be written. */
export function ProofColumn({ layer, busy, onPoint, onUse, onReject, onEdit, onReplace, children }: Props) {
  const best = layer.candidates[0];
  const proposed = layer.after === null ? undefined : best;
  const [comparedPath, setCompared] = useState<string | null>(null);
  const compared = layer.candidates.find((c) => c.path === comparedPath) ?? best;
  const others = proposed ? layer.candidates.slice(1, 1 + MOST_OTHERS) : layer.candidates.slice(0, MOST_OTHERS);
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minHeight: '100%' }}>
      <Stack spacing={1.5} sx={{ px: 1.75, flex: 1 }}>
        <Section title="What is the matter">
          <Typography variant="body2">{layer.trouble.sentence}</Typography>
          <Typography variant="body2" color="text.secondary">
            {layer.trouble.fix}
          </Typography>
          {layer.usedBy.length > 0 && (
            <Typography variant="body2" color="text.secondary">
              Used by other maps, too: {layer.usedBy.join(', ')}.
            </Typography>
          )}
        </Section>
        {!proposed && <KnownOf layer={layer} />}
        {compared && compared !== best && (
          <Box sx={{ fontSize: 13 }}>
            Compared with <PathText path={compared.shownPath} most={52} />
            <Button size="small" onClick={() => setCompared(null)}>
              Compare with the best again
            </Button>
          </Box>
        )}
        {(layer.remembered || compared) && <OccupancyMap remembered={layer.remembered} found={compared?.facts ?? null} />}
        <Facts key={compared?.path ?? ''} remembered={layer.remembered} found={compared?.facts ?? null} needs={layer.needs} />
        {proposed && <Proposed layer={layer} proposed={proposed} busy={busy} onReject={onReject} />}
        {others.length > 0 && (
          <Section title={proposed ? 'Also possible' : 'Copies within reach'}>
            {others.map((c) => (
              <Other
                key={c.path}
                candidate={c}
                busy={busy}
                onUse={onUse}
                onReject={onReject}
                onCompare={c === compared ? null : () => setCompared(c.path)}
              />
            ))}
          </Section>
        )}
        <Companions layer={layer} busy={busy} onEdit={onEdit} />
        <OtherWays layer={layer} isProposed={proposed !== undefined} onPoint={onPoint} onReplace={onReplace} />
      </Stack>
      <Stack
        direction="row"
        spacing={1.5}
        sx={{ position: 'sticky', bottom: 0, alignItems: 'center', p: 1.75, bgcolor: 'var(--sheet)', borderTop: '1px solid var(--rule)' }}
      >
        {children}
      </Stack>
    </Box>
  );
}

interface ProposedProps extends Pick<Props, 'layer' | 'busy' | 'onReject'> {
  readonly proposed: CandidateView;
}

/** Why it is that one, and exactly what will be written. */
const Proposed = ({ layer, proposed, busy, onReject }: ProposedProps) => (
  <>
    <Section title="Why">
      {proposed.evidence.map((e) => (
        <Typography key={e} variant="body2">
          {e}
        </Typography>
      ))}
    </Section>
    {layer.needs.length > 0 && (
      <Section title="What the map needs of it">
        <Typography variant="body2">
          Label, filter or style use <span className="mono">{layer.needs.join(', ')}</span>: all there.
        </Typography>
      </Section>
    )}
    <Section title="What will be written">
      <div>
        − <PathText path={layer.before.href ?? 'no source'} most={52} colour="var(--plum)" />
      </div>
      <div>
        + <PathText path={proposed.href} most={52} colour="var(--spruce)" />
      </div>
      <Typography variant="body2" color="text.secondary">
        Only the address. Style, title, order and filter stay as they are.
      </Typography>
      <Button size="small" disabled={busy} onClick={() => onReject(proposed.path)}>
        Not this one
      </Button>
    </Section>
  </>
);

interface OtherProps extends Pick<Props, 'busy' | 'onUse' | 'onReject'> {
  readonly candidate: CandidateView;
  /** Null: it is compared already. */
  readonly onCompare: (() => void) | null;
}

/** Another candidate, and what speaks for it. */
const Other = ({ candidate: c, busy, onUse, onReject, onCompare }: OtherProps) => (
  <Box component="article" aria-label={c.shownPath} sx={{ mb: 1 }}>
    <PathText path={c.shownPath} most={52} />
    <Typography variant="body2" color="text.secondary">
      {[
        c.facts.modified ? `changed ${day(c.facts.modified)}` : '',
        c.usedBy.length > 0 ? `used by ${c.usedBy.join(', ')}` : 'no map uses it',
        c.origin ? `from ${toldOrigin(c.origin)}` : '',
        ...c.evidence.slice(0, 2),
      ]
        .filter(Boolean)
        .join(' · ')}
    </Typography>
    <Button size="small" disabled={busy} onClick={() => onUse(c.path)}>
      Use this one
    </Button>
    <Button size="small" disabled={busy} onClick={() => onReject(c.path)}>
      Not this one
    </Button>
    {onCompare && (
      <Button size="small" onClick={onCompare}>
        Compare
      </Button>
    )}
  </Box>
);

/** What else can be done for the layer. */
function OtherWays({
  layer,
  isProposed,
  onPoint,
  onReplace,
}: Pick<Props, 'layer' | 'onPoint' | 'onReplace'> & { readonly isProposed: boolean }) {
  const subject = useSubject();
  return (
    <>
      {layer.trouble.code === 'still-packed' && subject.stops !== null && (
        <Button
          component={Link}
          to={`${subject.stops}/sources?view=intake${layer.packedIn ? `&archive=${encodeURIComponent(`${layer.packedIn.place}:${layer.packedIn.path}`)}` : ''}`}
          variant="outlined"
          sx={{ alignSelf: 'flex-start' }}
        >
          Unpack it in Sources
        </Button>
      )}
      {layer.trouble.code === 'unknown-drive' && !isProposed && (
        <Button component={Link} to="/places" variant="outlined" sx={{ alignSelf: 'flex-start' }}>
          Say which place it is
        </Button>
      )}
      {layer.before.state === 'different' && (
        <Button variant="outlined" onClick={() => onReplace(true)} sx={{ alignSelf: 'flex-start' }}>
          It is meant: use what stands there
        </Button>
      )}
      <Stack direction="row" spacing={1}>
        {layer.before.state !== 'absent' && <Button onClick={onPoint}>Point to its data instead</Button>}
        <Button onClick={() => onReplace(false)}>Use other data on purpose</Button>
      </Stack>
    </>
  );
}
