import { Box, Button, Stack, Typography } from '@mui/material';
import type { ServiceView } from '@rootmap/core/contract';
import { dateTime, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { Sheet, Tag } from '../parts/states.js';
import { KIND_WORD } from './offer-words.js';

interface Props {
  readonly service: ServiceView;
  readonly isChosen: boolean;
  readonly isAsking: boolean;
  readonly onOpen: () => void;
  readonly onAsk: () => void;
  readonly onLink: () => void;
  readonly onUnlink: () => void;
  readonly onSignIn: () => void;
  readonly onFollow: () => void;
}

/** One server: whether it was asked and what came of it, who draws on it. */
export function ServiceCard({ service: s, isChosen, isAsking, onOpen, onAsk, onLink, onUnlink, onSignIn, onFollow }: Props) {
  const title = s.name ?? new URL(s.url).host;
  return (
    <Sheet sx={{ p: 1.5, ...(isChosen ? { boxShadow: 'inset 0 0 0 2px var(--spruce)' } : {}) }}>
      <Box component="section" aria-label={`Service ${title}`}>
        <Stack direction="row" sx={{ alignItems: 'flex-start', gap: 1 }}>
          <Typography variant="h3" component="h2" sx={{ flex: 1 }}>
            {title}
          </Typography>
          <Standing service={s} />
        </Stack>
        <PathText path={s.url} most={40} />
        <Typography variant="body2" sx={{ mt: 0.5 }}>
          {s.kind ? KIND_WORD[s.kind] : 'not linked, so it is not asked'}
          {s.signIn === 'password' && ', signed in'}
          {s.signIn === 'key' && ', with a key'}
        </Typography>
        {s.asked && s.movedTo === null && (
          <Typography variant="body2" color={s.asked.answered ? 'text.secondary' : 'error'}>
            {s.asked.answered
              ? `Answered ${dateTime(s.asked.atMs)}`
              : `${s.asked.why ?? 'It does not answer'} (${dateTime(s.asked.atMs)}). ${s.asked.okMs === null ? 'It never answered.' : `Last answer ${dateTime(s.asked.okMs)}.`}`}
          </Typography>
        )}
        {s.movedTo && (
          <Box sx={{ bgcolor: 'var(--ochre-wash)', p: 1, borderRadius: 1, my: 0.5 }}>
            <Typography variant="body2">It moved to {s.movedTo}</Typography>
            <Button size="small" onClick={onFollow}>
              Follow it
            </Button>
          </Box>
        )}
        <Typography variant="body2" color="text.secondary">
          {s.usedBy.length === 0
            ? 'No layer draws on it.'
            : `${many(s.usedBy.length, 'layer')}: ${s.usedBy.map((u) => u.title).join(', ')}`}
        </Typography>
        <Stack direction="row" sx={{ mt: 0.5, flexWrap: 'wrap', gap: 0.5 }}>
          {s.name === null ? (
            <Button variant="outlined" onClick={onLink}>
              Link it
            </Button>
          ) : (
            <>
              <Button variant={isChosen ? 'text' : 'outlined'} onClick={onOpen}>
                Look through it
              </Button>
              <Button onClick={onAsk} disabled={isAsking}>
                {isAsking ? 'Asking…' : 'Ask it'}
              </Button>
              <Button onClick={onSignIn}>{s.signIn ? 'Sign-in' : 'Sign in'}</Button>
              <Button color="error" onClick={onUnlink}>
                Unlink
              </Button>
            </>
          )}
        </Stack>
      </Box>
    </Sheet>
  );
}

function Standing({ service: { asked, movedTo } }: { service: ServiceView }) {
  if (movedTo !== null) return <Tag tone="ochre">moved</Tag>;
  if (asked === null) return <Tag tone="slate">not asked</Tag>;
  return asked.answered ? <Tag tone="spruce">answers</Tag> : <Tag tone="plum">does not answer</Tag>;
}
