import { mdiChevronDown, mdiChevronRight } from '@mdi/js';
import { Box, Button, ButtonBase, IconButton, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { ItemUse, ServiceItem } from '@rootmap/core';
import type { ProjectView, ServiceView } from '@rootmap/core/contract';
import { api, ServerProblem } from '../api/client.js';
import { keys } from '../api/queries.js';
import { dateTime, day, many, number } from '../parts/format.js';
import { Icon } from '../parts/icon.js';
import { ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { useUrlState, type UrlChanges } from '../parts/use-url-state.js';
import { VirtualTable } from '../parts/virtual-table.js';
import { AllowHost } from './allow-host.js';
import { OfferDetails } from './offer-details.js';
import { useWholeCatalogue } from './use-whole-catalogue.js';
import { findOffers, USE_TONE, USE_WORD, type OfferOrder } from './offer-words.js';

const ORDERS: readonly (readonly [OfferOrder, string])[] = [
  ['server', 'as the server has it'],
  ['title', 'by title'],
  ['publisher', 'by publisher'],
  ['changed', 'last changed first'],
];

/** All that one server offers: found by words, narrowed, sorted; and the chosen thing in full. */
export function OfferView({ project, service, onSignIn }: { project: ProjectView; service: ServiceView; onSignIn: () => void }) {
  const [search, set] = useUrlState();
  const { tree, readAnew } = useOffer(project.key, service.url);
  const [words, use, order] = [
    search.get('offer') ?? '',
    (search.get('use') ?? 'all') as ItemUse | 'all',
    (search.get('order') ?? 'server') as OfferOrder,
  ];
  const items = tree.data?.tree.items;
  const { others, elsewhere, askServer } = useWholeCatalogue(project.key, service, tree.data?.tree, words);
  const parents = useMemo(() => new Set((items ?? []).map((i) => pathOf(i.below))), [items]);
  const [folded, fold] = useToggled();
  const sought = useMemo(() => findOffers(items ?? [], words, use, order), [items, words, use, order]);
  const fromServer = useMemo(() => findOffers(others, '', use, order), [others, use, order]);
  // What is sought is shown wherever it stands.
  const isNarrowed = words.trim() !== '' || use !== 'all' || order !== 'server';
  const listed = isNarrowed ? sought : sought.filter((i) => !i.below.some((_, n) => folded.has(pathOf(i.below.slice(0, n + 1)))));
  const found = [...listed, ...fromServer];
  const chosen = [...(items ?? []), ...others].find((i) => i.name !== '' && i.name === search.get('item')) ?? null;
  if (tree.isError) return <NotOffered project={project} error={tree.error} onAgain={() => void tree.refetch()} onSignIn={onSignIn} />;
  if (!tree.data) return <Waiting what={`Asking ${service.name ?? service.url} what it offers…`} />;
  const { more } = tree.data.tree;
  const count = items?.filter((i) => i.name !== '').length ?? 0;
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: chosen ? 'minmax(0, 1fr) 344px' : 'minmax(0, 1fr)' },
        gap: 1.5,
        minHeight: 0,
      }}
    >
      <Sheet sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
        <OfferTools words={words} use={use} order={order} onChange={set} onAnew={readAnew} />
        <Typography variant="body2" color="text.secondary" role="status" sx={{ px: 1, pb: 0.5 }}>
          {listed.length === (items?.length ?? 0) ? many(count, 'thing') : `${number(listed.length)} of ${many(count, 'thing')}`}
          {more > 0 && ` (the first of at least ${number(count + more)})`}, as read {dateTime(tree.data.readMs)}
        </Typography>
        {askServer && <ServerSearch {...elsewhere} words={words} onAsk={askServer} />}
        {found.length === 0 ? (
          <Typography color="text.secondary" sx={{ p: 2 }}>
            {more > 0 ? 'Nothing that is listed of it has these words.' : 'Nothing that it offers has these words.'}
          </Typography>
        ) : (
          <VirtualTable
            label={`What ${service.name ?? service.url} offers`}
            items={found}
            rowHeight={44}
            columns={chosen ? 'minmax(0, 1fr) 150px' : 'minmax(0, 2fr) minmax(0, 1fr) 170px 96px'}
            keyOf={(i) => `${i.below.join('/')}/${i.name}/${i.title}`}
            cells={(i) => (
              <Cells
                item={i}
                isNarrow={chosen !== null}
                isChosen={i === chosen}
                used={tree.data.usedBy[i.name]?.length ?? 0}
                fold={
                  !isNarrowed && parents.has(pathOf([...i.below, i.title]))
                    ? { isFolded: folded.has(pathOf([...i.below, i.title])), flip: () => fold(pathOf([...i.below, i.title])) }
                    : null
                }
                onChoose={() => set({ item: i.name })}
              />
            )}
          />
        )}
      </Sheet>
      {chosen && (
        <OfferDetails
          key={chosen.name}
          project={project}
          service={service}
          item={chosen}
          usedBy={tree.data.usedBy[chosen.name] ?? []}
          onClose={() => set({ item: null })}
        />
      )}
    </Box>
  );
}

/** What a service offers, as it was read last, and how to read it anew. */
function useOffer(projectKey: string, url: string) {
  const client = useQueryClient();
  const queryKey = keys.of(projectKey, 'service-tree', url);
  const tree = useQuery({
    queryKey,
    queryFn: ({ signal }) => api.serviceTree(projectKey, url, false, signal),
    retry: false,
    staleTime: 60_000,
  });
  const readAnew = (): void =>
    void client
      .fetchQuery({
        queryKey,
        queryFn: ({ signal }) => api.serviceTree(projectKey, url, true, signal),
        staleTime: 0,
        retry: false,
      })
      .catch(() => tree.refetch());
  return { tree, readAnew };
}

interface NotOfferedProps {
  readonly project: ProjectView;
  readonly error: Error;
  readonly onAgain: () => void;
  readonly onSignIn: () => void;
}

/** Why nothing is known of what it offers, and the way on. */
function NotOffered({ project, error, onAgain, onSignIn }: NotOfferedProps) {
  const trouble = error instanceof ServerProblem ? error.details : null;
  return (
    <Box>
      <ErrorState error={error} onRetry={onAgain} />
      {/sign-in/.test(trouble?.trouble ?? '') && (
        <Button variant="contained" sx={{ ml: 2 }} onClick={onSignIn}>
          Sign in
        </Button>
      )}
      {trouble?.trouble === 'private' && trouble.host && <AllowHost projectKey={project.key} host={trouble.host} onAllowed={onAgain} />}
    </Box>
  );
}

interface OfferToolsProps {
  readonly words: string;
  readonly use: ItemUse | 'all';
  readonly order: OfferOrder;
  readonly onChange: (changes: UrlChanges) => void;
  readonly onAnew: () => void;
}

/** Words, use and order by which what it offers is narrowed. */
const OfferTools = ({ words, use, order, onChange, onAnew }: OfferToolsProps) => (
  <Stack direction="row" sx={{ gap: 1, p: 1, alignItems: 'center', flexWrap: 'wrap' }}>
    <TextField
      placeholder="Find by title, publisher, keyword…"
      value={words}
      onChange={(e) => onChange({ offer: e.target.value })}
      slotProps={{ htmlInput: { 'aria-label': 'Find in what it offers' } }}
      sx={{ flex: '1 1 180px', minWidth: 150 }}
    />
    <TextField
      select
      value={use}
      onChange={(e) => onChange({ use: e.target.value === 'all' ? null : e.target.value })}
      slotProps={{ select: { 'aria-label': 'What can be done with it' } }}
      sx={{ width: 150 }}
    >
      <MenuItem value="all">everything</MenuItem>
      <MenuItem value="picture">pictures</MenuItem>
      <MenuItem value="copyable">records</MenuItem>
      <MenuItem value="file">files</MenuItem>
    </TextField>
    <TextField
      select
      value={order}
      onChange={(e) => onChange({ order: e.target.value === 'server' ? null : e.target.value })}
      slotProps={{ select: { 'aria-label': 'Order' } }}
      sx={{ width: 180 }}
    >
      {ORDERS.map(([value, label]) => (
        <MenuItem key={value} value={value}>
          {label}
        </MenuItem>
      ))}
    </TextField>
    <Button onClick={onAnew}>Read it anew</Button>
  </Stack>
);

interface ServerSearchProps {
  readonly state: 'not-asked' | 'asking' | 'found' | 'failed';
  readonly count: number;
  readonly more: number;
  readonly error: unknown;
  readonly words: string;
  readonly onAsk: () => void;
}

/** A catalogue too large to be listed whole is searched where it stands. */
const ServerSearch = ({ state, count, more, error, words, onAsk }: ServerSearchProps) => (
  <Box sx={{ px: 1, pb: 0.5 }} role="status">
    {state === 'found' ? (
      <Typography variant="body2">
        The server found {many(count + more, 'record')} for “{words.trim()}” in all that it has
        {more > 0 && `; the first ${number(count)} are listed`}.
      </Typography>
    ) : state === 'failed' ? (
      <ErrorState error={error} onRetry={onAsk} />
    ) : (
      <Button variant="outlined" size="small" disabled={state === 'asking'} onClick={onAsk}>
        {state === 'asking' ? 'The server is searching…' : `Let the server search all that it has for “${words.trim()}”`}
      </Button>
    )}
  </Box>
);

const CUT = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

interface CellsProps {
  readonly item: ServiceItem;
  readonly isNarrow: boolean;
  readonly isChosen: boolean;
  readonly used: number;
  /** Something stands below it: shown or not. */
  readonly fold: { readonly isFolded: boolean; readonly flip: () => void } | null;
  readonly onChoose: () => void;
}

const pathOf = (titles: readonly string[]): string => JSON.stringify(titles);

const Fold = ({ title, fold }: { title: string; fold: CellsProps['fold'] }) =>
  fold && (
    <IconButton size="small" aria-label={`What stands below ${title}`} aria-expanded={!fold.isFolded} onClick={fold.flip} sx={{ p: 0.25 }}>
      <Icon path={fold.isFolded ? mdiChevronRight : mdiChevronDown} sx={{ fontSize: 18 }} />
    </IconButton>
  );

function Cells({ item, isNarrow, isChosen, used, fold, onChoose }: CellsProps) {
  const { description: about } = item;
  if (item.name === '')
    return (
      <span role="cell" style={{ ...CUT, paddingLeft: item.below.length * 14, fontWeight: 650 }}>
        <Fold title={item.title} fold={fold} />
        {item.title}
      </span>
    );
  return (
    <>
      <span role="cell" style={{ minWidth: 0, paddingLeft: item.below.length * 14 }}>
        <Fold title={item.title} fold={fold} />
        <ButtonBase
          onClick={onChoose}
          aria-pressed={isChosen}
          sx={{
            font: 'inherit',
            color: 'var(--ink)',
            fontWeight: isChosen ? 650 : 400,
            textAlign: 'left',
            maxWidth: fold ? 'calc(100% - 28px)' : '100%',
            display: fold ? 'inline-block' : 'block',
            verticalAlign: 'middle',
            ...CUT,
          }}
        >
          {item.title}
        </ButtonBase>
        <Box component="span" sx={{ display: 'block', color: 'var(--soft)', fontSize: 12, ...CUT }}>
          {used > 0 ? `${many(used, 'layer')} · ` : ''}
          {about || item.name}
        </Box>
      </span>
      {!isNarrow && (
        <span role="cell" style={{ ...CUT, color: 'var(--soft)' }}>
          {item.publisher ?? ''}
        </span>
      )}
      <span role="cell">
        <Tag tone={USE_TONE[item.use]}>{USE_WORD[item.use]}</Tag>
      </span>
      {!isNarrow && (
        <span role="cell" style={{ color: 'var(--soft)' }}>
          {item.changed ? day(item.changed) : ''}
        </span>
      )}
    </>
  );
}
