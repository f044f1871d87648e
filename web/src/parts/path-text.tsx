import { Tooltip } from '@mui/material';
import { asWritten } from './format.js';

interface Props {
  readonly path: string;
  readonly most?: number;
  readonly struck?: boolean;
  readonly colour?: string;
  /** In rows that come and go by the hundred: the browser's own hint, and no stop for the Tab key. */
  readonly isInRow?: boolean;
}

/** A path: monospace, shortened before its file name and never in it, whole on hover and focus. */
export function PathText({ path: given, most = 60, struck = false, colour, isInRow = false }: Props) {
  const path = asWritten(given);
  const at = Math.max(path.lastIndexOf('/', path.length - 2), path.lastIndexOf('\\', path.length - 2));
  const head = path.slice(0, at + 1);
  const name = path.slice(at + 1);
  const long = path.length > 24;
  const text = (
    <span
      className="mono"
      tabIndex={long && !isInRow ? 0 : undefined}
      title={long && isInRow ? path : undefined}
      style={{
        display: 'inline-flex',
        maxWidth: `min(100%, ${most}ch)`,
        verticalAlign: 'bottom',
        textDecoration: struck ? 'line-through' : undefined,
        color: colour,
        whiteSpace: 'pre',
      }}
    >
      <span style={{ overflow: 'hidden', textOverflow: 'ellipsis', flex: '0 1000 auto', minWidth: head ? '2ch' : 0 }}>{head}</span>
      <span style={{ overflow: 'hidden', textOverflow: 'ellipsis', flex: '0 0 auto', maxWidth: head ? 'calc(100% - 2ch)' : '100%' }}>
        {name}
      </span>
    </span>
  );
  return long && !isInRow ? <Tooltip title={<span className="mono">{path}</span>}>{text}</Tooltip> : text;
}
