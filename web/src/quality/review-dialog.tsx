import { Box, MenuItem, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { ELEMENTS, FITNESS_WORD, FITNESSES, type Element, type Fitness, type QualityCheck, type Review } from '@rootmap/core';
import type { ProjectView, QualityRow, ReviewRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { tellDone } from '../journal/tell-done.js';
import { units } from '../parts/format.js';
import { FormDialog } from '../parts/form-dialog.js';
import { ErrorState } from '../parts/states.js';
import { usePreview } from '../pictures/use-preview.js';
import { CheckPoints } from './check-points.js';
import { ReviewTemplates } from './review-templates.js';
import { ALL_ELEMENTS } from './quality-words.js';

interface Props {
  readonly project: ProjectView;
  readonly row: QualityRow;
  readonly checks: readonly QualityCheck[];
  readonly before: Review | null;
  /** Datasets that it can be measured against. */
  readonly others: readonly QualityRow[];
  readonly onClose: () => void;
}

const today = (): string => new Date().toISOString().slice(0, 10);

/** A reviewer's word on each element; signed with the data as it is now. */
export function ReviewDialog({ project, row, checks, before, others, onClose }: Props) {
  const [said, setSaid] = useState<Review['elements']>(before?.elements ?? {});
  const [accuracy, setAccuracy] = useState(before?.accuracy ?? '');
  const [fitFor, setFitFor] = useState(before?.fitFor ?? '');
  const [name, setName] = useState(before?.name ?? '');
  const [date, setDate] = useState(today());
  const save = useMutation({
    mutationFn: (body: ReviewRequest) => api.reviewQuality(project.key, body),
    onSuccess: ({ change }) => {
      tellDone('The review stands beside the data.', change);
      onClose();
    },
  });
  const drawn = usePreview(project.key, row.id, null, row.kind !== 'table').data;
  const [unit, crs] = [drawn?.unit ?? null, drawn?.crs ?? null];
  const asked = ALL_ELEMENTS.filter((e) => said[e] !== undefined || checks.some((c) => c.element === e));
  const change = (element: Element, of: Partial<{ fitness: Fitness | ''; words: string }>): void => {
    const { fitness = said[element]?.fitness ?? '', words = said[element]?.words ?? '' } = of;
    const { [element]: _, ...others } = said;
    setSaid(fitness === '' ? others : { ...others, [element]: { fitness, words } });
  };
  return (
    <FormDialog
      title={`Review ${row.name.slice(row.name.lastIndexOf('/') + 1)}`}
      confirm="Sign it"
      disabled={name.trim() === '' || !/^\d{4}-\d{2}-\d{2}$/.test(date) || save.isPending}
      maxWidth="lg"
      onConfirm={() => save.mutate({ dataset: row.id, elements: said, accuracy, fitFor, name: name.trim(), date })}
      onClose={onClose}
    >
      <Typography color="text.secondary" sx={{ mb: 1.5 }}>
        What you say is signed with the data as it is now: when its files hold something else, the sheet is out of date by itself.
      </Typography>
      <ReviewTemplates
        said={{ elements: said, accuracy, fitFor }}
        onTake={(t) => {
          setSaid(t.elements);
          setAccuracy(t.accuracy);
          setFitFor(t.fitFor);
        }}
      />
      {asked.map((element) => (
        <ElementWord key={element} element={element} said={said[element]} onChange={(of) => change(element, of)} />
      ))}
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1.5, mt: 2 }}>
        <TextField label="Fit for" value={fitFor} onChange={(e) => setFitFor(e.target.value)} />
        <TextField label="Stated accuracy" value={accuracy} onChange={(e) => setAccuracy(e.target.value)} />
        <TextField label="Reviewer" required value={name} onChange={(e) => setName(e.target.value)} />
        <TextField
          label="Date"
          type="date"
          value={date}
          onChange={(e) => setDate(e.target.value)}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      </Box>
      {unit !== null && unit !== 'degree' && (
        <CheckPoints
          project={project}
          row={row}
          others={others}
          crs={crs}
          unit={unit === 'metre' ? 'm' : units(unit)}
          onState={setAccuracy}
        />
      )}
      {save.isError && <ErrorState error={save.error} />}
    </FormDialog>
  );
}

interface ElementWordProps {
  readonly element: Element;
  readonly said: Review['elements'][Element];
  readonly onChange: (of: Partial<{ fitness: Fitness | ''; words: string }>) => void;
}

/** A judgement on one element, and why. */
const ElementWord = ({ element, said, onChange }: ElementWordProps) => (
  <Box
    role="group"
    aria-label={ELEMENTS[element]}
    sx={{ display: 'grid', gridTemplateColumns: '230px 170px 1fr', gap: 1, alignItems: 'center', mb: 1 }}
  >
    <span style={{ fontSize: 13 }}>{ELEMENTS[element]}</span>
    <TextField
      select
      value={said?.fitness ?? ''}
      onChange={(e) => onChange({ fitness: e.target.value as Fitness | '' })}
      slotProps={{ select: { displayEmpty: true, 'aria-label': `${ELEMENTS[element]}: judgement` } }}
    >
      <MenuItem value="">no word on it</MenuItem>
      {FITNESSES.map((f) => (
        <MenuItem key={f} value={f}>
          {FITNESS_WORD[f]}
        </MenuItem>
      ))}
    </TextField>
    <TextField
      value={said?.words ?? ''}
      disabled={said === undefined}
      onChange={(e) => onChange({ words: e.target.value })}
      slotProps={{ htmlInput: { 'aria-label': `${ELEMENTS[element]}: why` } }}
    />
  </Box>
);
