import { Alert, Button, Stack } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { LayerView, MendProjectView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { bestOf } from '../mend/choices.js';
import { tellDone } from '../journal/tell-done.js';
import { many } from '../parts/format.js';
import { sentenceOf } from '../parts/states.js';

const layersOf = (project: ProjectView): LayerView[] => project.maps.flatMap((m) => m.layers);

/** Layers that were sound when this page first saw them, and are adrift now. */
function useLost(project: ProjectView): ReadonlySet<string> {
  const seen = useRef<{ key: string; sound: Set<string> }>({ key: '', sound: new Set() });
  const [lost, setLost] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    if (seen.current.key !== project.key) seen.current = { key: project.key, sound: new Set() };
    const layers = layersOf(project);
    for (const l of layers) if (l.state === 'sound') seen.current.sound.add(l.key);
    setLost(new Set(layers.filter((l) => l.state === 'adrift' && seen.current.sound.has(l.key)).map((l) => l.key)));
  }, [project]);
  return lost;
}

const EVERYWHERE = { search: [], reach: 'places' } as const;

/** Says within a moment that data was moved outside the app, and mends what is certain with one click. */
export function MovedNotice({ project }: { project: ProjectView }) {
  const lost = useLost(project);
  const [hidden, setHidden] = useState(0);
  const mend = useQuery({
    queryKey: keys.mend(project.key, [], 'places'),
    queryFn: () => api.mend(project.key, EVERYWHERE),
    enabled: lost.size > 0,
  });
  const certain = lost.size > 0 ? (mend.data?.layers ?? []).filter((l) => lost.has(l.key) && l.verdict === 'certain') : [];
  const leaving = certain.filter((l) => l.candidates[0]?.leavesProject).length;
  const styles = certain.length > 0 ? (mend.data?.styles ?? []).filter((s) => s.verdict === 'certain').map((s) => s.key) : [];
  const apply = useMutation({
    mutationFn: () => api.applyMend(project.key, { choices: bestOf(certain), styles, ...EVERYWHERE }),
    onSuccess: (done) => tellDone(`${many(certain.length, 'layer')} mended.`, done.change),
  });
  if (lost.size === 0 || lost.size === hidden) return null;
  return (
    <Alert severity="warning" role="status" sx={{ borderRadius: 0, py: 0.25, alignItems: 'center' }} onClose={() => setHidden(lost.size)}>
      <Stack direction="row" spacing={1.5} sx={{ alignItems: 'center' }}>
        <span>
          {many(lost.size, 'layer')} lost {lost.size === 1 ? 'its' : 'their'} data just now{whereTo(mend.data, lost)}.
          {leaving > 0 && ` ${leaving === 1 ? 'One of them' : `${leaving} of them`} would have its data outside the project.`}
        </span>
        {certain.length > 0 && (
          <Button variant="contained" size="small" disabled={apply.isPending} onClick={() => apply.mutate()}>
            Mend {many(certain.length, 'layer')}
          </Button>
        )}
        <Button component={Link} to={`/p/${project.key}/mend`} size="small" color="inherit">
          {certain.length > 0 ? 'See the proof' : 'See why'}
        </Button>
        {apply.isError && <span>{sentenceOf(apply.error)}</span>}
      </Stack>
    </Alert>
  );
}

function whereTo(mend: MendProjectView | undefined, lost: ReadonlySet<string>): string {
  const shift = mend?.shifts.find((s) => s.layers.some((l) => lost.has(l)));
  if (!shift) return '';
  return shift.verdict === 'certain'
    ? `: what stood in ${shift.from} stands in ${shift.to} now`
    : `; data like it stands in ${shift.to}, which may be it`;
}
