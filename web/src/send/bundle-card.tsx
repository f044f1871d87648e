import { Box, Stack, Typography } from '@mui/material';
import type { BundleView } from '@rootmap/core/contract';
import { bytes, dateTime, many } from '../parts/format.js';
import { Sheet } from '../parts/states.js';
import { DriveAsked } from './drive-asked.js';

/** What a bundle says of itself: from whom, when, what is in it and what is not. */
export function BundleCard({ look }: { look: BundleView }) {
  const layers = look.maps.reduce((sum, m) => sum + m.layers, 0);
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2">{look.title}</Typography>
      <Typography color="text.secondary" sx={{ mb: 1 }}>
        {look.receipt
          ? `Sent by ${look.receipt.sentBy}, ${dateTime(Date.parse(look.receipt.made))}, as its receipt says`
          : 'No receipt stands beside it, so nobody is told to have sent it'}
      </Typography>
      <Stack spacing={1.25}>
        <Box>
          {many(look.files, 'file')}, {bytes(look.bytes)} unpacked; {many(look.maps.length, 'map')} with {many(layers, 'layer')}
          {look.bagged === '' ? '' : `; newest file of ${look.bagged}`}
        </Box>
        {look.findings.length > 0 && (
          <Box role="alert" sx={{ p: 1.25, bgcolor: 'var(--plum-wash)', borderRadius: 1 }}>
            <Typography sx={{ fontWeight: 650 }}>It is not whole: {many(look.findings.length, 'fault')}</Typography>
            {look.findings.slice(0, 10).map((f) => (
              <Typography key={f.path + f.problem} variant="body2">
                <span className="mono">{f.path}</span> {f.problem}
              </Typography>
            ))}
          </Box>
        )}
        {look.services.length > 0 && (
          <Box>
            <Typography variant="h3">Not carried</Typography>
            {look.services.map((s) => (
              <Typography key={s.address} variant="body2">
                {s.title}: <span style={{ overflowWrap: 'anywhere' }}>{s.address}</span>
              </Typography>
            ))}
          </Box>
        )}
        {look.drives.length > 0 && (
          <Box>
            <Typography variant="h3">Drives that it still names</Typography>
            {look.drives.map((d) => (
              <DriveAsked key={d.name} drive={d} />
            ))}
          </Box>
        )}
        {look.readMe !== '' && (
          <details>
            <summary>Its read-me</summary>
            <Box component="pre" tabIndex={0} sx={{ whiteSpace: 'pre-wrap', overflow: 'auto', maxHeight: 320, fontSize: 13, m: 0, mt: 1 }}>
              {look.readMe}
            </Box>
          </details>
        )}
      </Stack>
    </Sheet>
  );
}
