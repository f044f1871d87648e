import { Box, Button, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { accuracyWords, positionalAccuracy, readCheckPoints } from '@rootmap/core';

/** Places as the data has them and as a better source has them, pasted as four columns: how far apart they are, by the NSSDA. */
export function CheckPoints({ unit, onState }: { unit: string; onState: (words: string) => void }) {
  const [text, setText] = useState('');
  const { points, odd } = readCheckPoints(text);
  const words = points.length === 0 ? null : accuracyWords(positionalAccuracy(points), unit);
  return (
    <Box component="details" sx={{ mt: 1.5, fontSize: 13, '& summary': { cursor: 'pointer', fontWeight: 650 } }}>
      <summary>Measure it with check points</summary>
      <TextField
        multiline
        minRows={3}
        maxRows={8}
        fullWidth
        label="x, y, and both as the better source has them; a point a line"
        value={text}
        onChange={(e) => setText(e.target.value)}
        slotProps={{ htmlInput: { className: 'mono' } }}
        sx={{ my: 1 }}
      />
      {odd.length > 0 && (
        <Typography variant="body2" sx={{ color: 'var(--plum)' }}>
          No four numbers in line {odd.slice(0, 5).join(', ')}
          {odd.length > 5 ? ' …' : ''}: left out.
        </Typography>
      )}
      {words && (
        <Typography variant="body2" role="status">
          {words}.{' '}
          <Button size="small" onClick={() => onState(words)}>
            State it
          </Button>
        </Typography>
      )}
    </Box>
  );
}
