import { isInOrder } from '@rootmap/core';
import { Box, Button, ButtonBase, Menu, MenuItem, Stack, Typography } from '@mui/material';
import { useState } from 'react';
import { Link } from 'react-router';
import type { MapView, ProjectView } from '@rootmap/core/contract';
import { usePathItems } from '../parts/copy-path.js';
import { usePathOf } from '../parts/path-menu.js';
import { Tag } from '../parts/states.js';
import { MapPicture } from '../pictures/map-picture.js';

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
  const paths = usePathItems(usePathOf(`${project.root}/${map.relativePath}`, project), () => setMenu(null));
  return (
    <Box sx={frame(isChosen)}>
      <ButtonBase
        onClick={onChoose}
        aria-pressed={isChosen}
        sx={{ display: 'block', width: '100%', textAlign: 'left', fontFamily: 'inherit' }}
      >
        <MapPicture projectKey={project.key} map={map} height={104} />
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
          {paths}
        </Menu>
      </Stack>
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
