import { Box, Button, Stack, Typography } from '@mui/material';
import { lazy, Suspense, useState } from 'react';
import type { DatasetView, LinkView, PathRequest, ProjectView } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';
import { bytes, dateTime, kindWord, many, number } from '../parts/format.js';
import { PathMenu } from '../parts/path-menu.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, Sheet, Tag } from '../parts/states.js';
import { Tether } from '../parts/tether.js';
import { useUrlState } from '../parts/use-url-state.js';
import { Thumbnail, THUMBNAILS } from '../pictures/thumbnail.js';
import { LinkDialog } from './link-dialog.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

/** Folders outside the root that the project draws on, by name: what each holds and what uses it. */
export function LinksView({ project }: { project: ProjectView }) {
  const [open, setOpen] = useState<OpenLink | null>(null);
  const [search, set] = useUrlState();
  const shown = search.get('link');
  const link = (
    <Button variant="contained" onClick={() => setOpen({ kind: 'choose' })} disabled={project.id === null}>
      Link a folder
    </Button>
  );
  return (
    <Box sx={{ height: '100%', overflow: 'auto' }}>
      {project.links.length === 0 ? (
        <EmptyState title="No folder is linked" action={link}>
          Data that many projects use stands once, outside all of them. Link its folder by name, and layers keep finding it when it moves.
        </EmptyState>
      ) : (
        <>
          <Stack direction="row" sx={{ mb: 1.5, justifyContent: 'flex-end' }}>
            {link}
          </Stack>
          <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(min(100%, 420px), 1fr))', gap: 1.5 }}>
            {project.links.map((l) => (
              <LinkCard
                key={l.name}
                link={l}
                project={project}
                isNew={l.name === shown}
                onUnlink={() => setOpen({ kind: 'unlink', name: l.name })}
                onFind={() => setOpen({ kind: 'find', name: l.name })}
                onShow={() => set({ view: 'datasets', find: l.name }, { step: true, afresh: true })}
              />
            ))}
          </Box>
        </>
      )}
      <LinkDialogs
        project={project}
        open={open}
        onOpen={setOpen}
        onLinked={(name) => set({ view: 'links', link: name }, { step: true, afresh: true })}
      />
    </Box>
  );
}

/** What is done with a link, step by step. */
type OpenLink =
  | { readonly kind: 'choose' }
  | { readonly kind: 'link'; readonly at: PathRequest }
  | { readonly kind: 'unlink'; readonly name: string }
  | { readonly kind: 'find'; readonly name: string }
  | { readonly kind: 'relink'; readonly name: string; readonly folder: PathRequest };

interface LinkDialogsProps {
  readonly project: ProjectView;
  readonly open: OpenLink | null;
  readonly onOpen: (open: OpenLink | null) => void;
  readonly onLinked: (name: string) => void;
}

function LinkDialogs({ project, open, onOpen, onLinked }: LinkDialogsProps) {
  const close = (): void => onOpen(null);
  switch (open?.kind) {
    case 'unlink':
      return (
        <EditDialog projectKey={project.key} title={`Unlink ${open.name}`} edit={open} button={`Unlink ${open.name}`} onClose={close}>
          <Typography sx={{ mb: 1 }}>The folder and everything in it stay where they are.</Typography>
        </EditDialog>
      );
    case 'relink':
      return (
        <EditDialog projectKey={project.key} title={`Is this ${open.name}?`} edit={open} button="It is" onClose={close}>
          <Typography sx={{ mb: 1 }}>The link leads there from now on, and every layer below it follows at once.</Typography>
        </EditDialog>
      );
    case 'link':
      return (
        <LinkDialog project={project} at={open.at} onAnother={(at) => onOpen({ kind: 'link', at })} onLinked={onLinked} onClose={close} />
      );
    case 'find':
      return (
        <Suspense>
          <FolderChooser
            open
            title={`Where is the folder of ${open.name} now?`}
            useFolderLabel="It is this folder"
            onClose={close}
            onChoose={(folder) => onOpen({ kind: 'relink', name: open.name, folder })}
          />
        </Suspense>
      );
    case 'choose':
      return (
        <Suspense>
          <FolderChooser
            open
            title="Which folder is to be linked?"
            useFolderLabel="Link this folder"
            onClose={close}
            onChoose={(at) => onOpen({ kind: 'link', at })}
          />
        </Suspense>
      );
    case undefined:
      return null;
  }
}

interface CardProps {
  readonly link: LinkView;
  readonly project: ProjectView;
  readonly isNew: boolean;
  readonly onUnlink: () => void;
  /** Its folder is gone: where is it now? */
  readonly onFind: () => void;
  readonly onShow: () => void;
}

/** Of what a card lists, so many stand on it. */
const MOST_SHOWN = 8;

function LinkCard({ link, project, isNew, onUnlink, onFind, onShow }: CardProps) {
  const datasets = project.datasets.filter((d) => d.link === link.name);
  return (
    <Sheet
      sx={{ p: 2, ...(isNew ? { boxShadow: 'inset 0 0 0 2px var(--spruce)' } : {}), ...(link.present ? {} : { color: 'var(--stone)' }) }}
    >
      <Box component="section" aria-label={`Link ${link.name}`}>
        <Stack direction="row" sx={{ alignItems: 'center', gap: 1 }}>
          <Typography variant="h2" sx={{ flex: 1 }}>
            {link.name}
          </Typography>
          {link.present ? (
            <Tag tone="spruce">there</Tag>
          ) : (
            <Tag tone="plum">{link.place === null || link.path === null ? 'its place is not there' : 'gone'}</Tag>
          )}
        </Stack>
        <PathText path={link.shown ?? 'no place has its address'} most={56} />
        {link.path !== null && link.path !== link.shown && (
          <Typography variant="body2" color="text.secondary">
            on this machine <PathText path={link.path} most={44} colour="var(--soft)" />
          </Typography>
        )}
        <Typography variant="body2" sx={{ my: 1 }}>
          {link.present
            ? `${many(datasets.length, 'dataset')}, ${bytes(datasets.reduce((sum, d) => sum + d.bytes, 0))}`
            : link.known && link.known.datasets.length > 0
              ? `As it was when it was seen last${link.known.seenMs ? `, ${dateTime(link.known.seenMs)}` : ''}: ${many(link.known.datasets.length, 'dataset')}`
              : 'What it holds is not known. Plug its place in, or mend the layers below it on the Mend stop.'}
        </Typography>
        <Held link={link} datasets={datasets} projectKey={project.key} />
        <Through link={link} project={project} />
        <Stack direction="row" spacing={1} useFlexGap sx={{ mt: 1, flexWrap: 'wrap' }}>
          {link.present && link.path !== null && <PathMenu project={project} path={link.path} />}
          {link.present ? (
            <Button variant="outlined" onClick={onShow}>
              Show its datasets
            </Button>
          ) : (
            <Button variant="contained" onClick={onFind}>
              Find its folder
            </Button>
          )}
          <Button color="error" onClick={onUnlink}>
            Unlink
          </Button>
        </Stack>
      </Box>
    </Sheet>
  );
}

/** What is in it; while it is away, what was. */
const Held = ({ link, datasets, projectKey }: { link: LinkView; datasets: readonly DatasetView[]; projectKey: string }) => (
  <>
    {link.present
      ? datasets.slice(0, MOST_SHOWN).map((d) => (
          <Stack key={d.id} direction="row" spacing={1} sx={{ alignItems: 'center', mb: 0.5, ...THUMBNAILS }}>
            <Thumbnail projectKey={projectKey} dataset={d} modifiedMs={0} />
            <Box component="span" className="mono" sx={{ fontSize: 12.5, flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
              {d.folder ? `${d.folder}/` : ''}
              {d.name}
            </Box>
            <Typography component="span" variant="body2" color="text.secondary">
              {kindWord(d.geometry) || d.kind}
              {d.count === null ? '' : `, ${number(d.count)}`}
            </Typography>
          </Stack>
        ))
      : (link.known?.datasets ?? []).slice(0, MOST_SHOWN).map((d) => (
          <Box key={`${d.folder}/${d.name}`} className="mono" sx={{ fontSize: 12.5 }}>
            {d.folder ? `${d.folder}/` : ''}
            {d.name}
          </Box>
        ))}
    {datasets.length > MOST_SHOWN && <Typography variant="body2">… and {datasets.length - MOST_SHOWN} more</Typography>}
  </>
);

/** Layers that lead through it. */
function Through({ link, project }: { link: LinkView; project: ProjectView }) {
  const layers = project.maps.flatMap((m) => m.layers.filter((l) => l.link === link.name).map((l) => ({ ...l, mapTitle: m.title })));
  return (
    <>
      <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
        {layers.length === 0 ? 'No layer goes through it.' : `${many(layers.length, 'layer')} through it:`}
      </Typography>
      {layers.slice(0, MOST_SHOWN).map((l) => (
        <Box key={l.key} sx={{ fontSize: 13 }}>
          <Tether bond={l} /> {l.title}{' '}
          <Box component="span" sx={{ color: 'text.secondary' }}>
            ({l.mapTitle})
          </Box>
        </Box>
      ))}
      {layers.length > MOST_SHOWN && <Typography variant="body2">… and {layers.length - MOST_SHOWN} more</Typography>}
    </>
  );
}
