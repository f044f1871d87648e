import { Box, Button, Typography } from '@mui/material';
import type { CrsAdvice, MapCrsView } from '@rootmap/core/contract';
import { shortArea, units } from '../../parts/format.js';
import { Sheet } from '../../parts/states.js';

interface Props {
  readonly code: string | null;
  readonly crs: MapCrsView | null;
  readonly advice: CrsAdvice | null;
  readonly onChange: () => void;
}

/** The CRS of the map, always in sight: name, code, units, and what it costs over the extent. */
export function CrsCard({ code, crs, advice, onChange }: Props) {
  const known = advice && [advice.proposed, ...advice.others].find((p) => p?.crs.code === code);
  return (
    <Sheet sx={{ p: 1.25, flex: 'none' }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
        <Typography variant="h3" component="h2" sx={{ flex: 1, minWidth: 0 }}>
          {crs?.name ?? (code === null ? 'No CRS yet' : 'A CRS that is not known here')}
        </Typography>
        <span className="mono" style={{ whiteSpace: 'nowrap' }}>
          {code ?? ''}
          {crs ? ` · ${units(crs.unit)}` : ''}
        </span>
        <Button size="small" onClick={onChange} sx={{ minWidth: 0, py: 0 }}>
          Change
        </Button>
      </Box>
      <Typography variant="body2" color="text.secondary">
        {code === null
          ? advice?.proposed
            ? `Its data would suit ${advice.proposed.crs.name} (${advice.proposed.crs.code}).`
            : 'Bring a layer in, and a CRS that suits it is proposed.'
          : known
            ? `${distortionWords(known.lengthPerMille, crs?.unit ?? '')}${known === advice?.proposed ? ` ${known.why}` : ''}`
            : shortArea(crs?.area ?? '')}
      </Typography>
    </Sheet>
  );
}

/** The worst over the extent, in words. */
export function distortionWords(lengthPerMille: number, unit: string): string {
  if (unit === 'degree') return 'Degrees: lengths and areas cannot be measured on it.';
  if (lengthPerMille < 0.005) return 'Over this extent lengths are true to 0.005 ‰.';
  if (lengthPerMille >= 1000) return 'Over this extent it is no measure: lengths are more than twice what they should be.';
  return `Over this extent a length is up to ${lengthPerMille < 1 ? lengthPerMille.toFixed(2) : lengthPerMille.toFixed(1)} ‰ off.`;
}
