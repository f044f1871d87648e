import { Box, Button, Divider, IconButton, Menu, MenuItem, Tooltip, useColorScheme } from '@mui/material';
import { mdiChevronDown, mdiThemeLightDark } from '@mdi/js';
import { useState } from 'react';
import { Link, useMatch, useNavigate } from 'react-router';
import { useProjects } from '../api/queries.js';
import { HelpButton } from '../help/help-button.js';
import { Icon } from '../parts/icon.js';
import { DemoDevices } from './demo-devices.js';
import { FindBox } from './find-box.js';
import { RunningWork } from './running-work.js';

const onTop = { color: 'var(--top-text)', '&:focus-visible': { outlineColor: 'var(--top-text)' } } as const;

export function TopLine() {
  const key = useMatch('/p/:key/*')?.params.key ?? null;
  return (
    <Box
      component="header"
      sx={{
        bgcolor: 'var(--top)',
        color: 'var(--top-text)',
        minHeight: 48,
        flex: 'none',
        px: 2,
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'center',
        columnGap: 1.5,
        pb: { xs: 0.75, md: 0 },
      }}
    >
      <Box
        component={Link}
        to="/"
        sx={{ display: 'flex', alignItems: 'center', gap: 1, textDecoration: 'none', fontWeight: 700, fontSize: 16, ...onTop }}
      >
        <img src="/mark.svg" width={26} height={26} alt="" />
        Root Map
      </Box>
      <Divider orientation="vertical" flexItem sx={{ my: 1, borderColor: 'currentColor', opacity: 0.3 }} />
      <ProjectSwitcher current={key} />
      <Box sx={{ flex: 1 }} />
      <FindBox projectKey={key} />
      <DemoDevices />
      <RunningWork />
      <Button component={Link} to="/journal" sx={onTop}>
        Journal
      </Button>
      <HelpButton sx={onTop} />
      <ModeSwitch />
    </Box>
  );
}

function ModeSwitch() {
  const { mode, systemMode, setMode } = useColorScheme();
  const dark = (mode === 'system' ? systemMode : mode) === 'dark';
  const label = dark ? 'Switch to light' : 'Switch to dark';
  return (
    <Tooltip title={label}>
      <IconButton size="small" aria-label={label} onClick={() => setMode(dark ? 'light' : 'dark')} sx={onTop}>
        <Icon path={mdiThemeLightDark} />
      </IconButton>
    </Tooltip>
  );
}

function ProjectSwitcher({ current }: { current: string | null }) {
  const projects = useProjects();
  const navigate = useNavigate();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const here = projects.data?.find((p) => p.key === current);
  const go = (to: string): void => {
    setAnchor(null);
    void navigate(to);
  };
  return (
    <>
      <Button
        onClick={(e) => setAnchor(e.currentTarget)}
        endIcon={<Icon path={mdiChevronDown} />}
        aria-haspopup="menu"
        sx={{ ...onTop, fontSize: 14, minWidth: 0 }}
      >
        <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', maxWidth: 330 }}>
          {here ? here.title : 'Projects'}
          {here && (
            <Box component="span" sx={{ fontWeight: 400, opacity: 0.8 }}>
              {' '}
              on {here.place}
            </Box>
          )}
        </Box>
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {projects.data?.map((p) => (
          <MenuItem key={p.key} selected={p.key === current} disabled={!p.present} onClick={() => go(`/p/${p.key}/overview`)}>
            {p.title}
            <Box component="span" sx={{ color: 'text.secondary', ml: 1 }}>
              {p.present ? `on ${p.place}` : `${p.place} is absent`}
            </Box>
          </MenuItem>
        ))}
        <MenuItem onClick={() => go('/')}>All projects</MenuItem>
        <MenuItem onClick={() => go('/places')}>Places</MenuItem>
      </Menu>
    </>
  );
}
