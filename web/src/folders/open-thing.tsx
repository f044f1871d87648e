import { Button } from '@mui/material';
import { useState } from 'react';
import { Link } from 'react-router';
import { noteKindOf } from '@rootmap/core';
import type { PathRequest, ThingView } from '@rootmap/core/contract';
import { DocumentDialog } from '../notes/document-dialog.js';

interface Props {
  readonly projectKey: string;
  readonly thing: ThingView;
  readonly name: string;
  readonly at: PathRequest;
}

/** A document is read in place, an archive looked into; of anything else nothing is offered. */
export function OpenThing({ projectKey, thing, name, at }: Props) {
  const [isReading, setReading] = useState(false);
  if (thing.kind === 'archive')
    return (
      <Button
        variant="contained"
        component={Link}
        to={`/p/${projectKey}/sources?view=intake&archive=${encodeURIComponent(`${at.place}:${at.path}`)}`}
      >
        Look into it
      </Button>
    );
  if (thing.kind !== 'document' || noteKindOf(thing.path) === null) return null;
  return (
    <>
      <Button variant="contained" onClick={() => setReading(true)}>
        Read it
      </Button>
      {isReading && <DocumentDialog projectKey={projectKey} at={at} name={name} onClose={() => setReading(false)} />}
    </>
  );
}
