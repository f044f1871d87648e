import { Tooltip } from '@mui/material';
import { shortPath } from './format.js';

/** A path: monospace, shortened in the middle, whole on hover and focus, copied with a click. */
export function PathText({ path, most = 60, struck = false, colour }: { path: string; most?: number; struck?: boolean; colour?: string }) {
  const shown = shortPath(path, most);
  const text = (
    <span className="mono" style={{ whiteSpace: 'nowrap', textDecoration: struck ? 'line-through' : undefined, color: colour }}>
      {shown}
    </span>
  );
  if (shown === path) return text;
  return (
    <Tooltip title={<span className="mono">{path}</span>}>
      <span tabIndex={0}>{text}</span>
    </Tooltip>
  );
}
