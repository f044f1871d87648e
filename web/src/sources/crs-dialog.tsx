import { Box, Radio, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import type { CrsView, EditRequest, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { inRoot } from '../folders/moves.js';
import { CrsField } from '../new/crs-field.js';
import { spotAt, spotWords } from '../new/spot.js';
import { ErrorState, Waiting } from '../parts/states.js';
import type { DatasetRow } from './dataset-rows.js';
import { keys } from '../api/queries.js';

const CrsMap = lazy(() => import('../new/crs-map.js').then((m) => ({ default: m.CrsMap })));

/** Which CRS could the coordinates be in? Each candidate shows where the data would lie; the choice is written beside it. */
export function CrsDialog({ project, row, onClose }: { project: ProjectView; row: DatasetRow; onClose: () => void }) {
  const { dataset: d } = row;
  const candidates = useQuery({
    queryKey: keys.of(project.key, 'crs-candidates', d.id),
    queryFn: () => api.crsCandidates(project.key, d.id),
    gcTime: 0,
  });
  const [chosen, setChosen] = useState<string | null>(null);
  /** One that is none of the candidates. */
  const [other, setOther] = useState<CrsView | null>(null);
  const all = candidates.data ?? [];
  const candidate = other ? null : (all.find((c) => c.crs.code === chosen) ?? all.find((c) => c.fits) ?? null);
  const current = other ?? candidate?.crs ?? null;
  const path = d.id.slice(project.root.length + 1);
  const edit: EditRequest | null = current ? { kind: 'assign-crs', dataset: inRoot(project, path), crs: current.code } : null;
  return (
    <EditDialog
      projectKey={project.key}
      title={`Which CRS is ${d.name} in?`}
      edit={edit}
      button={current ? `It is in ${current.name}` : 'Choose one'}
      onClose={onClose}
    >
      {candidates.isError ? (
        <ErrorState error={candidates.error} />
      ) : !candidates.data ? (
        <Waiting what="Trying the CRSs of the project and of its region…" />
      ) : all.length === 0 ? (
        <Typography>It has no coordinates that could be tried.</Typography>
      ) : (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '1fr 1fr' }, gap: 2, mb: 1.5 }}>
          <Box role="radiogroup" aria-label="Candidates" sx={{ maxHeight: 300, overflow: 'auto' }}>
            {all.map((c) => (
              <Box
                key={c.crs.code}
                component="label"
                sx={{
                  display: 'grid',
                  gridTemplateColumns: '34px 1fr',
                  alignItems: 'start',
                  fontSize: 13,
                  py: 0.25,
                  opacity: c.fits ? 1 : 0.7,
                }}
              >
                <Radio
                  size="small"
                  sx={{ p: 0.5 }}
                  checked={current?.code === c.crs.code}
                  onChange={() => (setOther(null), setChosen(c.crs.code))}
                  name="crs"
                />
                <span>
                  {c.crs.name} <span className="mono">{c.crs.code}</span>
                  <Box component="span" sx={{ display: 'block', color: 'var(--soft)' }}>
                    {c.why}; {c.fits ? `around ${spotWords(spotAt(...c.spot!))}` : 'the data would lie outside its area'}
                  </Box>
                </span>
              </Box>
            ))}
          </Box>
          <Suspense>
            <CrsMap spot={candidate?.spot ? spotAt(...candidate.spot) : null} bounds={current?.bounds ?? null} />
          </Suspense>
          <Box sx={{ gridColumn: '1 / 3' }}>
            <CrsField value={other} onChange={setOther} hint="Any other, by name, code or area." hasMap={false} />
          </Box>
        </Box>
      )}
    </EditDialog>
  );
}
