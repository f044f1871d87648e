import { Box, Button, IconButton, Stack, Typography } from '@mui/material';
import { mdiClose } from '@mdi/js';
import { useMemo, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { isEastFirst, kindOfAddress, type ServiceItem } from '@rootmap/core';
import type { EditRequest, ProjectView, ServiceView } from '@rootmap/core/contract';
import { EditDialog } from '../folders/edit-dialog.js';
import { useSettled } from '../folders/use-edit.js';
import { Fact } from '../parts/fact.js';
import { day } from '../parts/format.js';
import { Icon } from '../parts/icon.js';
import { MapChoice, NEW_MAP } from '../parts/map-choice.js';
import { Sheet, Tag } from '../parts/states.js';
import { CopyServiceDialog } from './copy-service-dialog.js';
import { boxWords, USE_TONE, USE_WORD } from './offer-words.js';
import { SamplePicture } from './sample-picture.js';

interface Props {
  readonly project: ProjectView;
  readonly service: ServiceView;
  readonly item: ServiceItem;
  readonly usedBy: readonly string[];
  readonly onClose: () => void;
}

/** One thing that a server offers: what it is, whose, how current; and the ways to use it. */
export function OfferDetails({ project, item, usedBy, onClose }: Props) {
  const [open, setOpen] = useState<'map' | 'copy' | null>(null);
  const navigate = useNavigate();
  const kind = item.href === null ? null : kindOfAddress(item.href);
  const { description: about } = item;
  const canDraw = item.whyNot === null && kind !== null;
  return (
    <Sheet sx={{ p: 1.5, overflow: 'auto' }}>
      <Box component="section" aria-label={item.title}>
        <Stack direction="row" sx={{ alignItems: 'flex-start' }}>
          <Typography variant="h2" sx={{ flex: 1 }}>
            {item.title}
          </Typography>
          <IconButton size="small" aria-label="Close the details" onClick={onClose}>
            <Icon path={mdiClose} />
          </IconButton>
        </Stack>
        <Stack spacing={1} sx={{ mt: 0.5 }}>
          <div>
            <Tag tone={USE_TONE[item.use]}>{USE_WORD[item.use]}</Tag>
          </div>
          <SamplePicture projectKey={project.key} item={item} />
          {canDraw ? (
            <Stack direction="row" sx={{ gap: 1, flexWrap: 'wrap' }}>
              <Button variant="contained" onClick={() => setOpen('map')} disabled={project.id === null}>
                Bring into a map
              </Button>
              {kind === 'features' && (
                <Button variant="outlined" onClick={() => setOpen('copy')} disabled={project.id === null}>
                  Keep a local copy
                </Button>
              )}
            </Stack>
          ) : (
            <Box>
              <Typography variant="body2">
                It cannot be brought into a map: {item.whyNot ?? 'its address says nothing that can be drawn'}.
              </Typography>
              {item.use === 'file' && item.href && (
                <Button
                  variant="contained"
                  sx={{ mt: 1 }}
                  onClick={() => void navigate(`?view=intake&address=${encodeURIComponent(item.href!)}`)}
                >
                  Fetch it
                </Button>
              )}
            </Box>
          )}
          {about && <Typography variant="body2">{about}</Typography>}
          <Fact name="Name">
            <span className="mono">{item.name}</span>
          </Fact>
          {item.publisher && <Fact name="By">{item.publisher}</Fact>}
          {item.attribution && <Fact name="To be said">{item.attribution}</Fact>}
          {item.licence && <Fact name="Licence">{item.licence}</Fact>}
          <Fact name="Changed">
            {item.changed ? `${day(item.changed)}${item.often ? `, ${item.often}` : ''}` : 'the server does not say'}
          </Fact>
          <Fact name="Seen by">{item.access ?? 'the server does not say'}</Fact>
          {item.degrees && <Fact name="Extent">{boxWords(item.degrees)}</Fact>}
          <Fact name="CRS">{crsWords(item, project.crs)}</Fact>
          {item.keywords.length > 0 && <Fact name="Keywords">{item.keywords.join(', ')}</Fact>}
          <Fact name="Used by">{usedBy.length === 0 ? 'no layer' : usedBy.join(', ')}</Fact>
        </Stack>
      </Box>
      {open === 'map' && <ServiceMapDialog project={project} item={item} onClose={() => setOpen(null)} />}
      {open === 'copy' && <CopyServiceDialog project={project} item={item} onClose={() => setOpen(null)} />}
    </Sheet>
  );
}

function crsWords({ crs, href }: ServiceItem, own: string | null): string {
  const kind = href === null ? null : kindOfAddress(href);
  if (kind === 'features') return 'longitude and latitude; computed in the CRS of the map';
  if (crs.length === 0) return 'the server does not say';
  const some = `${crs.slice(0, 6).join(', ')}${crs.length > 6 ? ` and ${crs.length - 6} more` : ''}`;
  if (own === null) return some;
  return `${some}. ${own} of the project: ${crs.includes(own) && isEastFirst(own) ? 'sent by the server' : 'turned from another one as it is drawn'}`;
}

/** Into a map that is there, or a new one that begins with it. */
function ServiceMapDialog({ project, item, onClose }: { project: ProjectView; item: ServiceItem; onClose: () => void }) {
  const [search] = useSearchParams();
  // Who comes from a map brings it into that one.
  const from = project.maps.find((m) => m.relativePath === search.get('into'))?.relativePath;
  const [map, setMap] = useState(from ?? project.maps[0]?.relativePath ?? NEW_MAP);
  const [title, setTitle] = useState(item.title);
  const navigate = useNavigate();
  const asked = useMemo((): EditRequest | null => {
    const code = item.href === null ? null : kindOfAddress(item.href);
    if (code === null || (map === NEW_MAP && title.trim() === '')) return null;
    const layer = { title: item.title, code, href: item.href!, rights: item.attribution ?? '' };
    return {
      kind: 'add-services',
      layers: [layer],
      map: map === NEW_MAP ? null : map,
      title: map === NEW_MAP ? title : '',
      crs: project.crs,
    };
  }, [map, title, item, project.crs]);
  const edit = useSettled(asked);
  return (
    <EditDialog
      projectKey={project.key}
      title={`Bring ${item.title} into a map`}
      edit={edit}
      isSettling={edit !== asked}
      button={map === NEW_MAP ? 'Start a map with it' : 'Bring it in'}
      onClose={onClose}
      onDone={({ map: made }) => {
        const at = made ?? (map === NEW_MAP ? null : map);
        void navigate(at ? `../maps/edit?map=${encodeURIComponent(at)}` : '../maps', { relative: 'path' });
      }}
    >
      <MapChoice maps={project.maps} map={map} onMap={setMap} title={title} onTitle={setTitle} newLabel="Start a map with it" />
    </EditDialog>
  );
}
