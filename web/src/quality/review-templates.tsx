import { Button, Divider, Menu, MenuItem, Stack, TextField } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { KeptReviewTemplate, ReviewTemplate } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { ErrorState } from '../parts/states.js';

interface Props {
  /** What is said now, to be kept. */
  readonly said: Omit<ReviewTemplate, 'title'>;
  readonly onTake: (template: ReviewTemplate) => void;
}

/** What a team says in reviews again and again: taken over, or kept for the next time. */
export function ReviewTemplates({ said, onTake }: Props) {
  const client = useQueryClient();
  const templates = useQuery({ queryKey: keys.reviewTemplates, queryFn: api.reviewTemplates });
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [title, setTitle] = useState<string | null>(null);
  const now = (all: readonly KeptReviewTemplate[]): void => {
    client.setQueryData(keys.reviewTemplates, all);
    setTitle(null);
  };
  const keep = useMutation({ mutationFn: api.keepReviewTemplate, onSuccess: now });
  const drop = useMutation({ mutationFn: api.dropReviewTemplate, onSuccess: now });
  const all = templates.data ?? [];
  return (
    <>
      <Stack direction="row" sx={{ gap: 1, mb: 1.5, alignItems: 'center' }}>
        <Button
          size="small"
          variant="outlined"
          aria-haspopup="menu"
          disabled={all.length === 0}
          onClick={(e) => setAnchor(e.currentTarget)}
        >
          {all.length === 0 ? 'No template is kept yet' : 'Begin with a template'}
        </Button>
        {title === null ? (
          <Button size="small" onClick={() => setTitle('')}>
            Keep this as a template
          </Button>
        ) : (
          <>
            <TextField
              autoFocus
              label="Title of the template"
              value={title}
              onChange={(e) => setTitle(e.target.value)}
              onKeyDown={(e) => {
                if (e.key !== 'Enter') return;
                e.preventDefault(); // the dialog around is not meant
                if (title.trim() !== '') keep.mutate({ ...said, title: title.trim() });
              }}
            />
            <Button
              size="small"
              disabled={title.trim() === '' || keep.isPending}
              onClick={() => keep.mutate({ ...said, title: title.trim() })}
            >
              Keep it
            </Button>
          </>
        )}
      </Stack>
      {(keep.isError || drop.isError) && <ErrorState error={keep.error ?? drop.error} />}
      <Menu open={anchor !== null && all.length > 0} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {all.map((t) => (
          <MenuItem
            key={t.id}
            onClick={() => {
              onTake(t);
              setAnchor(null);
            }}
          >
            {t.title}
          </MenuItem>
        ))}
        <Divider />
        {all.map((t) => (
          <MenuItem key={`forget ${t.id}`} onClick={() => drop.mutate(t.id)} sx={{ color: 'var(--soft)' }}>
            Forget {t.title}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
