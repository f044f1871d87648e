import { isInOrder } from '@rootmap/core';
import { mdiMapOutline } from '@mdi/js';
import { Box, Button, ButtonBase, Menu, MenuItem, Stack, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { MapView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { Icon } from '../parts/icon.js';
import { Tag } from '../parts/states.js';
import { Thumbnail, THUMBNAILS } from '../pictures/thumbnail.js';
import { keys } from '../api/queries.js';

export type MapAct = 'rename' | 'duplicate' | 'trash' | 'table';
interface Props {
  readonly project: ProjectView;
  readonly map: MapView;
  readonly isChosen: boolean;
  readonly onChoose: () => void;
  readonly onAct: (act: MapAct) => void;
}

const frame = (isChosen: boolean) =>
  ({
    borderRadius: '6px',
    border: `1.5px solid ${isChosen ? 'var(--spruce)' : 'var(--rule)'}`,
    bgcolor: 'var(--sheet)',
    flex: 'none',
    overflow: 'hidden',
  }) as const;

/** A map: its picture, its state, and what can be done with the file. */
export function MapCard({ project, map, isChosen, onChoose, onAct }: Props) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const broken = map.layers.filter((l) => !isInOrder(l.state) && l.state !== 'absent').length;
  const absent = map.layers.filter((l) => l.state === 'absent').length;
  const act = (a: MapAct): void => (setMenu(null), onAct(a));
  return (
    <Box sx={frame(isChosen)}>
      <ButtonBase
        onClick={onChoose}
        aria-pressed={isChosen}
        sx={{ display: 'block', width: '100%', textAlign: 'left', fontFamily: 'inherit' }}
      >
        <MapPicture project={project} map={map} />
        <Box sx={{ p: 1.25, pb: 0.5 }}>
          <Typography variant="h3" component="div">
            {map.title}
          </Typography>
          <Box sx={{ color: 'text.secondary', fontSize: 12.5, mb: 0.5 }} className="mono">
            {map.relativePath}
          </Box>
          <Stack direction="row" useFlexGap spacing={0.75} sx={{ flexWrap: 'wrap' }}>
            <Tag tone="spruce">{map.layers.length - broken - absent} sound</Tag>
            {broken > 0 && <Tag tone="plum">{broken} to mend</Tag>}
            {absent > 0 && <Tag tone="slate">{absent} absent</Tag>}
            <Tag tone="slate">{map.storedForm}</Tag>
          </Stack>
        </Box>
      </ButtonBase>
      <Stack direction="row" spacing={0.5} sx={{ px: 0.75, pb: 0.75 }}>
        <Button component={Link} to={`edit?map=${encodeURIComponent(map.relativePath)}`} aria-label={`Open ${map.title}`}>
          Open
        </Button>
        <Button aria-haspopup="menu" aria-label={`More on ${map.title}`} onClick={(e) => setMenu(e.currentTarget)}>
          More
        </Button>
        <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
          <MenuItem onClick={() => act('rename')}>Rename the file</MenuItem>
          <MenuItem onClick={() => act('duplicate')}>Duplicate</MenuItem>
          <MenuItem onClick={() => act('table')}>Save its table of layers</MenuItem>
          <MenuItem onClick={() => act('trash')}>Remove to the trash</MenuItem>
        </Menu>
      </Stack>
    </Box>
  );
}

const MOST_SMALL_PICTURES = 5;
/** Drawing more than this would hold up a map that is opened meanwhile. */
const QUICKLY_DRAWN_BYTES = 4 << 20;

/** The picture that was made when the map was saved last; until then those of the data that it shows. */
function MapPicture({ project, map }: { project: ProjectView; map: MapView }) {
  const { data } = useQuery({
    queryKey: keys.of(project.key, 'map-picture', map.relativePath, map.bytes),
    queryFn: () => api.mapPicture(project.key, map.relativePath),
    staleTime: 60_000,
    retry: false,
  });
  const shown = new Set(map.layers.map((l) => l.dataset));
  const datasets = data
    ? []
    : project.datasets.filter((d) => shown.has(d.id) && d.bytes <= QUICKLY_DRAWN_BYTES).slice(0, MOST_SMALL_PICTURES);
  return (
    <Box
      sx={{
        height: data ? 96 : 48,
        bgcolor: 'var(--slate-wash)',
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
        gap: 0.75,
        overflow: 'hidden',
        ...THUMBNAILS,
      }}
    >
      {data ? (
        <img src={data} alt="" style={{ width: '100%', height: '100%', objectFit: 'cover' }} />
      ) : datasets.length > 0 ? (
        datasets.map((d) => <Thumbnail key={d.id} projectKey={project.key} dataset={d} modifiedMs={0} />)
      ) : (
        <Icon path={mdiMapOutline} aria-hidden sx={{ fontSize: 26, color: 'var(--slate)', opacity: 0.55 }} />
      )}
    </Box>
  );
}

export const AllMapsCard = ({ detail, isChosen, onChoose }: { detail: string; isChosen: boolean; onChoose: () => void }) => (
  <ButtonBase
    onClick={onChoose}
    aria-pressed={isChosen}
    sx={{ ...frame(isChosen), display: 'block', textAlign: 'left', fontFamily: 'inherit', p: 1.25 }}
  >
    <Typography variant="h3" component="div">
      All maps
    </Typography>
    <Box sx={{ color: 'text.secondary', fontSize: 12.5 }}>{detail}</Box>
  </ButtonBase>
);
