import { Autocomplete, FormControlLabel, Radio, RadioGroup, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import type { SheetNeed } from '@rootmap/core';
import type { ProjectView, QualityRow, QualityView } from '@rootmap/core/contract';
import { useApplyEdit } from '../folders/use-edit.js';
import { FormDialog } from '../parts/form-dialog.js';
import { ErrorState } from '../parts/states.js';

const NEEDS: Readonly<Record<SheetNeed, string>> = {
  none: 'Nothing: it can be sent as it is',
  computed: 'That every dataset is checked',
  reviewed: 'That every dataset is reviewed',
};

interface Props {
  readonly project: ProjectView;
  readonly rows: readonly QualityRow[];
  readonly asks: QualityView['asks'];
  readonly onClose: () => void;
}

/** What the project asks of its data: the area that it is about, and what must be known before it is sent. */
export function AsksDialog({ project, rows, asks, onClose }: Props) {
  const areas = rows.filter((r) => project.datasets.some((d) => d.id === r.id && /Polygon/.test(d.geometry ?? '')));
  const [area, setArea] = useState(areas.find((r) => r.id === asks.area) ?? null);
  const [sheets, setSheets] = useState(asks.sheets);
  const apply = useApplyEdit(project.key, onClose);
  return (
    <FormDialog
      title="What the project asks of its data"
      confirm="Ask for this"
      disabled={apply.isPending}
      maxWidth="sm"
      onConfirm={() => apply.mutate({ kind: 'quality', area: area?.id ?? null, sheets })}
      onClose={onClose}
      contentSx={{ '&&': { pt: 1 } }}
    >
      <Autocomplete
        options={areas}
        value={area}
        getOptionLabel={(o) => o.name}
        isOptionEqualToValue={(a, b) => a.id === b.id}
        onChange={(_, chosen) => setArea(chosen)}
        renderInput={(params) => (
          <TextField {...params} label="Area of interest" helperText="A dataset of areas; what lies outside is told at the next check" />
        )}
      />
      <Typography variant="h3" id="asks-sheets" sx={{ mt: 2 }}>
        Before it is sent
      </Typography>
      <RadioGroup aria-labelledby="asks-sheets" value={sheets} onChange={(e) => setSheets(e.target.value as SheetNeed)}>
        {Object.entries(NEEDS).map(([value, label]) => (
          <FormControlLabel key={value} value={value} control={<Radio size="small" />} label={label} />
        ))}
      </RadioGroup>
      {apply.isError && <ErrorState error={apply.error} />}
    </FormDialog>
  );
}
