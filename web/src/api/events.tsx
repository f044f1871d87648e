import { useQueryClient, type QueryClient, type QueryKey } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { useEffect } from 'react';
import type { JobView, ServerEvent } from '@rootmap/core/contract';
import { tellDone } from '../journal/tell-done.js';
import { keys } from './queries.js';

/**
 * What is known of it is stale. A first answer that is under way may be from before the event, and is taken as it comes: it is
 * asked for once more when it is there (an answer with one before it is broken off and asked for anew by the client itself).
 */
function markStale(client: QueryClient, queryKey: QueryKey): void {
  const firstOnes = client
    .getQueryCache()
    .findAll({ queryKey, fetchStatus: 'fetching' })
    .filter((query) => query.state.data === undefined);
  void client.invalidateQueries({ queryKey });
  for (const query of firstOnes) {
    const again = (): void => void client.invalidateQueries({ queryKey: query.queryKey, exact: true });
    query.promise?.then(again, again);
  }
}

/** Listens to the server's one event stream and marks stale what an event is about. A lost connection comes back by itself. */
export function useServerEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const stream = new EventSource('/api/events');
    let wasOpen = false;
    stream.onopen = () => {
      // Whatever happened while nobody listened. At first the server tells it by itself, but for jobs.
      if (wasOpen) void client.invalidateQueries();
      else markStale(client, keys.jobs);
      wasOpen = true;
    };
    stream.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as ServerEvent;
      switch (event.type) {
        case 'project':
          markStale(client, keys.project(event.key));
          markStale(client, keys.projects);
          break;
        case 'projects':
          markStale(client, keys.projects);
          break;
        case 'places':
          markStale(client, keys.places);
          markStale(client, keys.projects);
          break;
        case 'journal':
          markStale(client, keys.journal);
          markStale(client, keys.status);
          break;
        case 'search':
          client.setQueryData(keys.searching(event.key), event.item);
          break;
        case 'job':
          tellJob(event.job);
          client.setQueryData<JobView[]>(keys.jobs, (jobs) => [event.job, ...(jobs ?? []).filter((j) => j.id !== event.job.id)]);
      }
    };
    return () => stream.close();
  }, [client]);
}

/** What was done to tables is told where the person is looking, with a way back; its dialog is closed by then. */
function tellJob(job: JobView): void {
  if (job.kind !== 'tables' || job.state === 'running') return;
  if (job.state !== 'done') return void enqueueSnackbar(job.message, { variant: 'error' });
  const { change, notes } = job.result;
  tellDone([`${job.title}: done.`, ...notes].join(' '), change);
}
