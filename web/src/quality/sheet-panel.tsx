import { mdiClose } from '@mdi/js';
import { Box, Button, IconButton, Stack, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useMemo, useState, type ReactNode } from 'react';
import { CHECKS, ELEMENTS, FITNESS_WORD, PASSAGE_WORD, type CheckCode, type QualityCheck, type Review } from '@rootmap/core';
import type { ProjectView, QualityRow } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { dateTime, many, number } from '../parts/format.js';
import { DatasetNotes } from '../notes/dataset-notes.js';
import type { Marks } from '../pictures/marks.js';
import { Icon } from '../parts/icon.js';
import { ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import { ALL_ELEMENTS, RESULT_TONE, RESULT_WORD, STATE_TONE, STATE_WORD } from './quality-words.js';
import { CodesDialog } from './codes-dialog.js';
import { FindingFix } from './finding-fix.js';
import { CompareDialog } from './compare-dialog.js';
import { SaveReport } from './save-report.js';
import { ReviewDialog } from './review-dialog.js';

const PreviewMap = lazy(() => import('../pictures/preview-map.js').then((m) => ({ default: m.PreviewMap })));
const FieldCharts = lazy(() => import('./field-charts.js').then((m) => ({ default: m.FieldCharts })));
const MAP_HEIGHT = 200;
const NONE: readonly QualityCheck[] = [];

interface Props {
  readonly project: ProjectView;
  readonly row: QualityRow;
  /** All datasets, to be compared with. */
  readonly all: readonly QualityRow[];
  readonly isChecking: boolean;
  readonly onCheck: () => void;
  readonly onClose: () => void;
}

/** What is known of one dataset: what was computed, where on the map, and what a reviewer says. */
export function SheetPanel({ project, row, all, isChecking, onCheck, onClose }: Props) {
  const sheet = useQuery({
    // By when it was computed and reviewed: it is another sheet then.
    queryKey: keys.of(project.key, 'quality-sheet', row.id, row.at, row.state, row.reviewer?.date),
    queryFn: () => api.qualitySheet(project.key, row.id),
    placeholderData: (before) => before,
  });
  const [shown, setShown] = useState<CheckCode | null>(null);
  const [isReviewing, setReviewing] = useState(false);
  const [isComparing, setComparing] = useState(false);
  const [isListing, setListing] = useState(false);
  const checks = sheet.data?.checks ?? NONE;
  const fine = checks.filter((c) => c.result === 'pass');
  const marks = useMemo((): Marks[] => {
    const places = (checks.find((c) => c.code === shown)?.examples ?? []).flatMap((e) => (e.at ? [e.at] : []));
    return places.length > 0 ? [{ places, shape: 'cross' }] : [];
  }, [checks, shown]);
  return (
    <Sheet sx={{ overflow: 'auto', minHeight: 0, p: 1.5 }}>
      <Stack direction="row" sx={{ alignItems: 'flex-start', gap: 1 }}>
        <Typography variant="h2" sx={{ flex: 1, overflowWrap: 'anywhere' }}>
          {row.name.slice(row.name.lastIndexOf('/') + 1)}
        </Typography>
        <IconButton size="small" aria-label="Close the sheet" onClick={onClose}>
          <Icon path={mdiClose} />
        </IconButton>
      </Stack>
      <Stack direction="row" sx={{ gap: 1, my: 1, alignItems: 'center', flexWrap: 'wrap' }}>
        <Tag tone={STATE_TONE[row.state]}>{STATE_WORD[row.state]}</Tag>
        <Button size="small" variant={row.at === null ? 'contained' : 'outlined'} disabled={isChecking} onClick={onCheck}>
          {isChecking ? 'Checking…' : row.at === null ? 'Check it' : 'Check it anew'}
        </Button>
        <Button size="small" disabled={!sheet.data || row.problem !== null || row.isReadOnly} onClick={() => setReviewing(true)}>
          {sheet.data?.review ? 'Review it again' : 'Review it'}
        </Button>
        {row.kind !== 'raster' && (
          <Button size="small" onClick={() => setComparing(true)}>
            Compare it
          </Button>
        )}
        <SaveReport projectKey={project.key} dataset={row.id} disabled={row.state === 'none'} />
      </Stack>
      {row.problem && <Typography sx={{ color: 'var(--plum)', mb: 1 }}>{row.problem}</Typography>}
      {row.isReadOnly && (
        <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
          It stands where nothing may be written, so no sheet is kept beside it.
        </Typography>
      )}
      {row.kind !== 'table' && (
        <Suspense fallback={<Box sx={{ height: MAP_HEIGHT + 20 }} />}>
          <PreviewMap projectKey={project.key} dataset={row.id} name={row.name} crs={null} height={MAP_HEIGHT} marks={marks} />
        </Suspense>
      )}
      {sheet.isError && <ErrorState error={sheet.error} onRetry={() => void sheet.refetch()} />}
      {!sheet.data && !sheet.isError && <Waiting what="Reading its sheet…" />}
      {sheet.data?.review && <ReviewWords review={sheet.data.review} isCurrent={sheet.data.isReviewCurrent === true} />}
      {row.at !== null && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
          Computed {dateTime(Date.parse(row.at))}
        </Typography>
      )}
      {sheet.data && checks.length === 0 && (
        <Typography color="text.secondary" sx={{ mt: 1 }}>
          Nobody looked at it yet. Check it: every record or pixel is read once, and what was found stays beside the data.
        </Typography>
      )}
      {ALL_ELEMENTS.map((element) => {
        const own = checks.filter((c) => c.element === element && c.result !== 'pass');
        return own.length === 0 ? null : (
          <Box key={element} component="section" aria-label={ELEMENTS[element]} sx={{ mt: 1.5 }}>
            <Typography variant="h3">{ELEMENTS[element]}</Typography>
            {own.map((c, i) => (
              <CheckRow
                key={`${c.code}${i}`}
                check={c}
                isShown={shown === c.code}
                onShow={() => setShown(shown === c.code ? null : c.code)}
              >
                <FindingFix project={project} row={row} code={c.code} />
              </CheckRow>
            ))}
          </Box>
        );
      })}
      {fine.length > 0 && (
        <Box component="details" sx={{ mt: 1.5, fontSize: 13, '& summary': { cursor: 'pointer', fontWeight: 650 } }}>
          <summary>{many(fine.length, 'check')} found nothing wrong</summary>
          {fine.map((c, i) => (
            <CheckRow key={`${c.code}${i}`} check={c} isShown={false} onShow={() => undefined} />
          ))}
        </Box>
      )}
      {sheet.data && sheet.data.stated.length > 0 && (
        <Box component="section" aria-label="Stated by its publisher" sx={{ mt: 1.5, fontSize: 13 }}>
          <Typography variant="h3">Stated by its publisher</Typography>
          {sheet.data.stated.map((f) => (
            <div key={f.about} style={{ overflowWrap: 'anywhere', whiteSpace: 'pre-line' }}>
              <b>{PASSAGE_WORD[f.about]}</b>: {f.words} {f.note !== null && <span style={{ color: 'var(--soft)' }}>({f.note})</span>}
            </div>
          ))}
        </Box>
      )}
      {sheet.data && sheet.data.fields.length > 0 && (
        <Suspense fallback={null}>
          <FieldCharts fields={sheet.data.fields} />
        </Suspense>
      )}
      {row.kind !== 'raster' && (
        <Button size="small" onClick={() => setListing(true)}>
          Expected codes
        </Button>
      )}
      {isListing && <CodesDialog project={project} row={row} onClose={() => setListing(false)} />}
      <Box component="section" aria-label="Notes beside it" sx={{ mt: 1.5, fontSize: 13 }}>
        <Typography variant="h3">Notes beside it</Typography>
        <DatasetNotes projectKey={project.key} dataset={row.id} />
      </Box>
      {isComparing && (
        <CompareDialog
          project={project}
          row={row}
          others={all.filter((r) => r.id !== row.id && r.kind === row.kind)}
          onClose={() => setComparing(false)}
        />
      )}
      {isReviewing && sheet.data && (
        <ReviewDialog
          project={project}
          row={row}
          checks={checks}
          before={sheet.data.review}
          others={all.filter((r) => r.id !== row.id && r.kind !== 'table')}
          onClose={() => setReviewing(false)}
        />
      )}
    </Sheet>
  );
}

const MOST_SHOWN = 5;

interface CheckRowProps {
  readonly check: QualityCheck;
  readonly isShown: boolean;
  readonly onShow: () => void;
  readonly children?: ReactNode;
}

function CheckRow({ check, isShown, onShow, children }: CheckRowProps) {
  const { title } = CHECKS[check.code];
  const places = check.examples.filter((e) => e.at !== null).length;
  return (
    <Box sx={{ mt: 0.75, pl: 1, borderLeft: `3px solid var(--${RESULT_TONE[check.result]})`, fontSize: 13 }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
        <span style={{ fontWeight: 650, flex: 1 }}>{title}</span>
        <Tag tone={RESULT_TONE[check.result]}>{RESULT_WORD[check.result]}</Tag>
      </Box>
      <div style={{ overflowWrap: 'anywhere' }}>{check.detail}</div>
      {check.result !== 'pass' && (
        <>
          {check.examples.slice(0, MOST_SHOWN).map((e, i) => (
            <div key={i} style={{ color: 'var(--soft)', overflowWrap: 'anywhere' }}>
              {e.record === null ? '' : `record ${number(e.record)}: `}
              {e.what}
            </div>
          ))}
        </>
      )}
      {children}
      {places > 0 && (
        <Button size="small" aria-pressed={isShown} onClick={onShow}>
          {isShown ? 'Hide where' : `Show where (${places})`}
        </Button>
      )}
    </Box>
  );
}

function ReviewWords({ review, isCurrent }: { review: Review; isCurrent: boolean }) {
  return (
    <Box component="section" aria-label="Review" sx={{ mt: 1, p: 1, bgcolor: 'var(--spruce-wash)', borderRadius: 1, fontSize: 13 }}>
      <div>
        <b>{review.name}</b>, {review.date}
        {!isCurrent && ': the data has changed since'}
      </div>
      {review.fitFor !== '' && <div>Fit for: {review.fitFor}</div>}
      {review.accuracy !== '' && <div>Stated accuracy: {review.accuracy}</div>}
      {ALL_ELEMENTS.flatMap((e) => {
        const said = review.elements[e];
        return said
          ? [
              <div key={e}>
                {ELEMENTS[e]}: {FITNESS_WORD[said.fitness]}
                {said.words && `, ${said.words}`}
              </div>,
            ]
          : [];
      })}
    </Box>
  );
}
