import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { inRoot } from '../folders/moves.js';
import { many } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { keys } from '../api/queries.js';

interface Props {
  readonly project: ProjectView;
  /** From the root. */
  readonly path: string;
  /** Null: the file is not this project's to repair. */
  readonly onRepair: (() => void) | null;
  /** Null: it is offered elsewhere. */
  readonly onRescue: (() => void) | null;
}

/** Findings with the number of the requirement of the standard (OGC 12-128r17) that each breaks. */
export function CheckResult({ project, path, onRepair, onRescue }: Props) {
  const at = inRoot(project, path);
  const check = useQuery({
    queryKey: keys.of(project.key, 'geodatabase-check', path),
    queryFn: () => api.checkGeodatabase(project.key, at),
  });
  if (check.isError) return <ErrorState error={check.error} />;
  if (!check.data) return <Typography role="status">Reading every shape…</Typography>;
  if (check.data.length === 0)
    return (
      <Typography role="status" sx={{ color: 'var(--spruce)', mt: 1 }}>
        It is as the standard asks.
      </Typography>
    );
  const repairable = check.data.filter((f) => f.canRepair).length;
  return (
    <>
      <Box component="ul" aria-label="Findings" sx={{ m: 0, mt: 1, p: 0, listStyle: 'none', fontSize: 13 }}>
        {check.data.map((f) => (
          <li key={`${f.requirement} ${f.table} ${f.message}`}>
            {f.table && <span className="mono">{f.table}: </span>}
            {f.message} <span style={{ color: 'var(--soft)' }}>{f.requirement === null ? '' : `(requirement ${f.requirement})`}</span>
          </li>
        ))}
      </Box>
      {onRescue && check.data.some((f) => f.isDamage) && (
        <Button sx={{ mt: 0.5 }} variant="outlined" onClick={onRescue}>
          Rescue what can be read
        </Button>
      )}
      {onRepair && repairable > 0 && (
        <Button sx={{ mt: 0.5 }} variant="outlined" onClick={onRepair}>
          Repair {many(repairable, 'finding')}
        </Button>
      )}
    </>
  );
}
