import { readScale, scaleText } from '@rootmap/core';
import { mdiClose, mdiMenuDown } from '@mdi/js';
import { Box, Button, IconButton, Popover, TextField } from '@mui/material';
import { useState } from 'react';
import { Icon } from '../../parts/icon.js';
import { useOwnScales } from './own-scales.js';

interface Props {
  /** Of the map now; null: it has none. */
  readonly scale: number | null;
  readonly onScale: (scale: number) => void;
}

/** The scale, typed or chosen from a list of one's own. */
export function ScaleChoice({ scale, onScale }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const change = (): void => {
    const next = typed === null ? null : readScale(typed);
    if (next !== null) onScale(next);
    setTyped(null);
  };
  return (
    <>
      <TextField
        variant="standard"
        value={typed ?? (scale === null ? '' : scaleText(scale))}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={change}
        onKeyDown={(e) => e.key === 'Enter' && change()}
        onFocus={(e) => e.target.select()}
        slotProps={{
          htmlInput: { 'aria-label': 'Scale', className: 'mono', style: { width: 84, padding: 0 } },
          input: { disableUnderline: true },
        }}
      />
      <IconButton
        size="small"
        aria-label="Scales"
        aria-haspopup="dialog"
        onClick={(e) => setAnchor(e.currentTarget)}
        sx={{ p: 0, width: 24, height: 24 }}
      >
        <Icon path={mdiMenuDown} sx={{ fontSize: 18 }} />
      </IconButton>
      {anchor && <ScaleList anchor={anchor} scale={scale} onScale={onScale} onClose={() => setAnchor(null)} />}
    </>
  );
}

function ScaleList({ anchor, scale, onScale, onClose }: Props & { readonly anchor: HTMLElement; readonly onClose: () => void }) {
  const { scales, set, usual, isUsual } = useOwnScales();
  const now = scale === null ? null : Math.round(scale);
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'top', horizontal: 'left' }}
      transformOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      slotProps={{ paper: { role: 'dialog', 'aria-label': 'Scales', sx: { p: 1, width: 210 } } }}
    >
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', maxHeight: 300, overflow: 'auto' }}>
        {scales.map((s) => (
          <Box component="li" key={s} sx={{ display: 'flex' }}>
            <Button size="small" className="mono" onClick={() => (onScale(s), onClose())} sx={{ flex: 1, justifyContent: 'flex-start' }}>
              {scaleText(s)}
            </Button>
            <IconButton size="small" aria-label={`Take ${scaleText(s)} off the list`} onClick={() => set(scales.filter((o) => o !== s))}>
              <Icon path={mdiClose} sx={{ fontSize: 15 }} />
            </IconButton>
          </Box>
        ))}
      </Box>
      <Button size="small" disabled={now === null || scales.includes(now)} onClick={() => now !== null && set([...scales, now])}>
        Add {now === null ? 'this scale' : scaleText(now)}
      </Button>
      {!isUsual && (
        <Button size="small" color="secondary" onClick={usual}>
          The usual ones again
        </Button>
      )}
    </Popover>
  );
}
