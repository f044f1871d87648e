import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { FieldStatistics, StatisticsView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { many, number } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { keys } from '../api/queries.js';

interface Props {
  readonly projectKey: string;
  readonly dataset: string;
  /** Name and type, from the header. */
  readonly fields: readonly (readonly [string, string])[];
  readonly isOpen: boolean;
  readonly onOpen: () => void;
}

/** The fields of a dataset; on request with what stands in them. */
export function FieldFacts({ projectKey, dataset, fields, isOpen, onOpen }: Props) {
  const statistics = useQuery({
    queryKey: keys.of(projectKey, 'statistics', dataset),
    queryFn: ({ signal }) => api.statistics(projectKey, dataset, signal),
    enabled: isOpen,
    retry: false,
  });
  const known = new Map(statistics.data?.fields.map((f) => [f.name, f]));
  return (
    <>
      {fields.map(([name, type]) => (
        <Box key={name} sx={{ mb: isOpen ? 0.75 : 0 }}>
          <span className="mono">{name}</span>{' '}
          <Box component="span" sx={{ color: 'var(--soft)' }}>
            {type}
          </Box>
          {known.has(name) && <Contents field={known.get(name)!} records={statistics.data!.records} />}
        </Box>
      ))}
      {statistics.isError && <ErrorState error={statistics.error} />}
      {statistics.isLoading && <Typography variant="body2">Reading every record…</Typography>}
      {statistics.data?.encoding && statistics.data.encoding.from !== 'nobody' && (
        <Typography variant="body2">{encodingWords(statistics.data.encoding)}</Typography>
      )}
      {!isOpen && (
        <Button size="small" onClick={onOpen}>
          What stands in them
        </Button>
      )}
    </>
  );
}

function Contents({ field: f, records }: { field: FieldStatistics; records: number }) {
  const empty = records - f.filled;
  const facts = [
    f.min !== null && f.max !== null ? `${plain(f.min)} to ${plain(f.max)}` : null,
    f.mean !== null ? `mean ${plain(f.mean)}` : null,
    f.distinct === null ? 'more than 1,000 different' : many(f.distinct, 'different value'),
    empty > 0 ? `${number(empty)} empty` : null,
  ];
  return (
    <Box sx={{ fontSize: 12.5, color: 'var(--soft)', pl: 1, borderLeft: '2px solid var(--rule)' }}>
      <div>{facts.filter(Boolean).join(', ')}</div>
      {f.samples.length > 0 && (
        <Box className="mono" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={f.samples.join('\n')}>
          {f.samples.join(' · ')}
        </Box>
      )}
    </Box>
  );
}

const plain = (n: number): string => (Number.isInteger(n) ? number(n) : String(Number(n.toPrecision(6))));

function encodingWords({ name, from, confidence }: NonNullable<StatisticsView['encoding']>): string {
  if (from === '.cpg') return `Its text is ${name}: the .cpg beside it says so.`;
  if (from === 'header') return `Its text is ${name}: its header says so.`;
  return confidence >= 1
    ? `Its text is read as ${name}: every byte fits, though nothing says so.`
    : `Its text is read as ${name}, guessed from its letters (${Math.round(confidence * 100)} % sure): nothing says how it is encoded.`;
}
