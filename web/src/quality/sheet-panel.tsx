import { mdiClose } from '@mdi/js';
import { Box, Button, IconButton, Stack, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useMemo, useState } from 'react';
import { ELEMENTS, FITNESS_WORD, PASSAGE_WORD, type CheckCode, type QualityCheck, type Review } from '@rootmap/core';
import type { ProjectView, QualityRow, QualitySheetView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { DatasetNotes } from '../notes/dataset-notes.js';
import { dateTime } from '../parts/format.js';
import { Icon } from '../parts/icon.js';
import { ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import type { Marks } from '../pictures/marks.js';
import { CodesDialog } from './codes-dialog.js';
import { CompareDialog } from './compare-dialog.js';
import { ALL_ELEMENTS, STATE_TONE, STATE_WORD } from './quality-words.js';
import { ReviewDialog } from './review-dialog.js';
import { SaveReport } from './save-report.js';
import { SheetFindings } from './sheet-findings.js';

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

type Act = 'review' | 'compare' | 'codes';

/** What is known of one dataset: what was computed, where on the map, and what a reviewer says. */
export function SheetPanel({ project, row, all, isChecking, onCheck, onClose }: Props) {
  const sheet = useQuery({
    // By when it was computed and reviewed: it is another sheet then.
    queryKey: keys.of(project.key, 'quality-sheet', row.id, row.at, row.state, row.reviewer?.date),
    queryFn: () => api.qualitySheet(project.key, row.id),
    placeholderData: (before) => before,
  });
  const [shown, setShown] = useState<CheckCode | null>(null);
  const [act, setAct] = useState<Act | null>(null);
  const checks = sheet.data?.checks ?? NONE;
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
        <Button size="small" disabled={!sheet.data || row.problem !== null || row.isReadOnly} onClick={() => setAct('review')}>
          {sheet.data?.review ? 'Review it again' : 'Review it'}
        </Button>
        {row.kind !== 'raster' && (
          <Button size="small" onClick={() => setAct('compare')}>
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
      {sheet.data && <WhenComputed row={row} checks={checks} />}
      <SheetFindings project={project} row={row} checks={checks} shown={shown} onShow={setShown} />
      {sheet.data && <KnownOfIt sheet={sheet.data} />}
      {row.kind !== 'raster' && (
        <Button size="small" onClick={() => setAct('codes')}>
          Expected codes
        </Button>
      )}
      <Box component="section" aria-label="Notes beside it" sx={{ mt: 1.5, fontSize: 13 }}>
        <Typography variant="h3">Notes beside it</Typography>
        <DatasetNotes projectKey={project.key} dataset={row.id} />
      </Box>
      {act !== null && sheet.data && (
        <ActDialog project={project} row={row} all={all} sheet={sheet.data} act={act} onClose={() => setAct(null)} />
      )}
    </Sheet>
  );
}

interface ActProps extends Pick<Props, 'project' | 'row' | 'all' | 'onClose'> {
  readonly sheet: QualitySheetView;
  readonly act: Act;
}

function ActDialog({ project, row, all, sheet, act, onClose }: ActProps) {
  const others = all.filter((r) => r.id !== row.id);
  switch (act) {
    case 'codes':
      return <CodesDialog project={project} row={row} onClose={onClose} />;
    case 'compare':
      return <CompareDialog project={project} row={row} others={others.filter((r) => r.kind === row.kind)} onClose={onClose} />;
    case 'review':
      return (
        <ReviewDialog
          project={project}
          row={row}
          checks={sheet.checks}
          before={sheet.review}
          others={others.filter((r) => r.kind !== 'table')}
          onClose={onClose}
        />
      );
  }
}

function WhenComputed({ row, checks }: { row: QualityRow; checks: readonly QualityCheck[] }) {
  return (
    <>
      {row.at !== null && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
          Computed {dateTime(Date.parse(row.at))}
        </Typography>
      )}
      {checks.length === 0 && (
        <Typography color="text.secondary" sx={{ mt: 1 }}>
          Nobody looked at it yet. Check it: every record or pixel is read once, and what was found stays beside the data.
        </Typography>
      )}
    </>
  );
}

/** What its publisher states, and what stands in its fields. */
function KnownOfIt({ sheet: { stated, fields } }: { sheet: QualitySheetView }) {
  return (
    <>
      {stated.length > 0 && (
        <Box component="section" aria-label="Stated by its publisher" sx={{ mt: 1.5, fontSize: 13 }}>
          <Typography variant="h3">Stated by its publisher</Typography>
          {stated.map((f) => (
            <div key={f.about} style={{ overflowWrap: 'anywhere', whiteSpace: 'pre-line' }}>
              <b>{PASSAGE_WORD[f.about]}</b>: {f.words} {f.note !== null && <span style={{ color: 'var(--soft)' }}>({f.note})</span>}
            </div>
          ))}
        </Box>
      )}
      {fields.length > 0 && (
        <Suspense fallback={null}>
          <FieldCharts fields={fields} />
        </Suspense>
      )}
    </>
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
