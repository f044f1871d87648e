import { Button } from '@mui/material';
import { Link, useRouteError } from 'react-router';
import { EmptyState, sentenceOf } from '../parts/states.js';

export function ErrorPage() {
  return (
    <EmptyState
      title="This page cannot be shown"
      action={
        <Button component={Link} to="/" variant="contained">
          Go to the start page
        </Button>
      }
    >
      {sentenceOf(useRouteError())}
    </EmptyState>
  );
}

export const NotFound = () => (
  <EmptyState
    title="There is nothing at this address"
    action={
      <Button component={Link} to="/" variant="contained">
        Go to the start page
      </Button>
    }
  >
    The project may have been taken off the list, or the address was cut short.
  </EmptyState>
);
