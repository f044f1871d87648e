import { Typography } from '@mui/material';
import type { NewerDataset } from '@rootmap/core/contract';
import { bytes, many, number } from '../parts/format.js';

/** A dataset against what would take its place, in one sentence. */
export function Compared({ dataset: { name, before, now, fields, usedBy, isSame } }: { dataset: NewerDataset }) {
  if (now === null)
    return (
      <Typography variant="body2" sx={{ mt: 0.5 }}>
        <span className="mono">{name}</span>: nothing that came is its newer edition. It stays as it is.
      </Typography>
    );
  if (isSame)
    return (
      <Typography variant="body2" sx={{ mt: 0.5 }}>
        <span className="mono">{name}</span>: what came is the same, byte for byte.
      </Typography>
    );
  const facts = [
    before.records !== null && now.records !== null
      ? before.records === now.records
        ? `${number(now.records)} records as before`
        : `${number(before.records)} records, now ${number(now.records)}`
      : null,
    before.bytes !== null && now.bytes !== null ? `${bytes(before.bytes)}, now ${bytes(now.bytes)}` : null,
    before.bbox && now.bbox ? (sameBox(before.bbox, now.bbox) ? 'the same extent' : 'another extent') : null,
    before.crs === now.crs ? null : `${before.crs ?? 'no CRS'}, now ${now.crs ?? 'no CRS'}`,
    fields.added.length > 0 ? `fields that came: ${fields.added.join(', ')}` : null,
    fields.gone.length > 0 ? `fields that went: ${fields.gone.join(', ')}` : null,
    fields.changed.length > 0 ? `fields of another type: ${fields.changed.join(', ')}` : null,
  ].filter((f) => f !== null);
  return (
    <Typography variant="body2" sx={{ mt: 0.5 }}>
      <span className="mono">{name}</span>: {facts.join('; ')}.{' '}
      {usedBy === 0 ? 'No layer uses it.' : `${many(usedBy, 'layer')} will draw the new one.`}
    </Typography>
  );
}

const sameBox = (a: readonly number[], b: readonly number[]): boolean =>
  a.every((v, i) => Math.abs(v - b[i]!) <= 1e-9 * Math.max(1, Math.abs(v)));
