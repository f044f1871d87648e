import { alsoNotAsked } from '../parts/tether.js';
import { Button } from '@mui/material';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { useOpenProject } from '../frame/use-project.js';
import { EmptyState } from '../parts/states.js';
import { MendView } from './mend-view.js';
import { MendSubjectContext, type MendSubject } from './subject.js';

/** All maps of a project, or one of them. */
export function MendPage() {
  const { key, title, maps, place, path, totals } = useOpenProject();
  const layers = maps.reduce((n, m) => n + m.layers.length, 0);
  const subject = useMemo(
    (): MendSubject => ({ key, title, layers, stops: `/p/${key}`, start: { place, path } }),
    [key, title, layers, place, path],
  );
  return (
    <MendSubjectContext value={subject}>
      <MendView
        whenSound={
          <EmptyState
            title={`Every layer is sound${alsoNotAsked(totals['not-asked'])}`}
            action={
              <Button component={Link} to={`/p/${key}/send`} variant="contained">
                Make a bundle
              </Button>
            }
          >
            Nothing is to be mended in {title}. When data moves, its layers turn up here with what explains them.
          </EmptyState>
        }
      />
    </MendSubjectContext>
  );
}
