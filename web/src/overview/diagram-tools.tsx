import { Box, Button, Menu, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import type { ProjectView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';
import { saveText } from '../parts/save-text.js';
import { WIDTH } from './diagram-geometry.js';
import { diagramCsv } from './diagram-csv.js';
import { diagramSvg, inksOf } from './diagram-svg.js';
import type { Diagram } from './layout-diagram.js';
import { savePng } from './save-png.js';

interface Props {
  readonly project: ProjectView;
  readonly diagram: Diagram;
  readonly text: string;
  readonly count: number;
  /** Which of what was found is looked at; -1: none yet. */
  readonly at: number;
  readonly onFind: (text: string) => void;
  readonly onGo: (index: number) => void;
}

/** Above the diagram: what its sides are, a search in it, and the diagram as a picture or a table. */
export function DiagramTools({ project, diagram, text, count, at, onFind, onGo }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const name = project.shownRoot.replace(/^.*[/]/, '');
  const save = (act: () => void): void => {
    setAnchor(null);
    act();
  };
  const svg = (): string => diagramSvg(project, diagram, inksOf(document.documentElement));
  return (
    <Stack
      direction="row"
      sx={{
        alignItems: 'center',
        gap: 1.5,
        flexWrap: { xs: 'wrap', md: 'nowrap' },
        px: 2,
        pt: 1.25,
        width: { xs: 'auto', md: WIDTH },
        boxSizing: 'content-box',
        fontSize: 12.5,
      }}
    >
      <Box component="span" sx={{ display: { xs: 'none', md: 'inline' }, color: 'text.secondary', width: 150 }}>
        Maps and their layers
      </Box>
      <TextField
        size="small"
        type="search"
        placeholder="Find a layer in the diagram"
        value={text}
        onChange={(e) => onFind(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && count > 0) onGo((at + (e.shiftKey ? count - 1 : 1) + (at < 0 && e.shiftKey ? 1 : 0)) % count);
          else if (e.key === 'Escape') onFind('');
        }}
        slotProps={{ htmlInput: { 'aria-label': 'Find a layer in the diagram' } }}
        sx={{ width: 240 }}
      />
      <Typography component="span" variant="body2" role="status" color="text.secondary" sx={{ flex: 1 }}>
        {text.trim() === ''
          ? ''
          : count === 0
            ? 'No layer has that'
            : at < 0
              ? `${many(count, 'layer')}; Enter goes there`
              : `${at + 1} of ${count}`}
      </Typography>
      <Button aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Save the diagram
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem onClick={() => save(() => saveText(`${name}_diagram.svg`, svg(), 'image/svg+xml'))}>As SVG</MenuItem>
        <MenuItem onClick={() => save(() => void savePng(`${name}_diagram.png`, svg()))}>As PNG</MenuItem>
        <MenuItem onClick={() => save(() => saveText(`${name}_layers.csv`, diagramCsv(project), 'text/csv'))}>As a table (CSV)</MenuItem>
      </Menu>
      <Box component="span" sx={{ display: { xs: 'none', md: 'inline' }, color: 'text.secondary' }}>
        where their data is
      </Box>
    </Stack>
  );
}
