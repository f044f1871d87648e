import { Box, Checkbox, FormControlLabel } from '@mui/material';
import { PathText } from '../parts/path-text.js';

interface Rewrite {
  readonly key: string;
  /** The layer, and in which map. */
  readonly label: string;
  readonly before: string | null;
  readonly after: string;
}

interface Props {
  readonly rewrites: readonly Rewrite[];
  /** Key of the one that is always among them. */
  readonly first: string;
  /** Keys of those that are left out. */
  readonly left: ReadonlySet<string>;
  readonly onToggle: (key: string) => void;
}

/** Addresses that will be written, old over new; all but the first can be left out. */
export function RewriteList({ rewrites, first, left, onToggle }: Props) {
  return rewrites.map((r) => (
    <Box key={r.key} sx={{ borderTop: '1px solid var(--rule)', py: 0.5 }}>
      <FormControlLabel
        control={<Checkbox size="small" checked={!left.has(r.key)} disabled={r.key === first} onChange={() => onToggle(r.key)} />}
        label={r.label}
      />
      <Box sx={{ pl: 4 }}>
        <div>
          − <PathText path={r.before ?? 'no source recorded'} most={88} colour="var(--plum)" />
        </div>
        <div>
          + <PathText path={r.after} most={88} colour="var(--spruce)" />
        </div>
      </Box>
    </Box>
  ));
}
