import { Button } from '@mui/material';
import type { ProjectView, SourceView } from '@rootmap/core/contract';
import { useApplyEdit } from '../folders/use-edit.js';
import { inRoot } from '../folders/moves.js';
import { Fact } from '../parts/fact.js';
import { sentenceOf } from '../parts/states.js';

const ENDING = /\.(qix|sbn)$/i;

/** Whether a shapefile of the project has a spatial index beside it; one is made where there is none. */
export function SpatialIndexFact({ project, source }: { project: ProjectView; source: SourceView }) {
  const edit = useApplyEdit(project.key, () => undefined);
  const has = source.files.find((f) => ENDING.test(f));
  const dataset = inRoot(project, source.id.slice(project.root.length + 1));
  return (
    <Fact name="Spatial index">
      {has ? `yes, ${has.slice(has.lastIndexOf('.'))}` : 'none: other programs read the whole file to draw a part of it'}
      {!has && (
        <div>
          <Button size="small" disabled={edit.isPending} onClick={() => edit.mutate({ kind: 'rebuild-index', dataset, isSpatial: true })}>
            Make a spatial index
          </Button>
        </div>
      )}
      {edit.isError && <div role="alert">{sentenceOf(edit.error)}</div>}
    </Fact>
  );
}
