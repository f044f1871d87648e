import { useQueryClient } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { useEffect } from 'react';
import type { JobView, ServerEvent } from '@rootmap/core/contract';
import { tellDone } from '../journal/tell-done.js';
import { keys } from './queries.js';

/** Listens to the server's one event stream and marks stale what an event is about. A lost connection comes back by itself. */
export function useServerEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const stream = new EventSource('/api/events');
    let wasOpen = false;
    stream.onopen = () => {
      // Whatever happened while nobody listened. At first the server tells it by itself, but for jobs.
      if (wasOpen) void client.invalidateQueries();
      else void client.invalidateQueries({ queryKey: keys.jobs });
      wasOpen = true;
    };
    stream.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as ServerEvent;
      switch (event.type) {
        case 'project':
          void client.invalidateQueries({ queryKey: keys.project(event.key) });
          void client.invalidateQueries({ queryKey: keys.projects });
          break;
        case 'projects':
          void client.invalidateQueries({ queryKey: keys.projects });
          break;
        case 'places':
          void client.invalidateQueries({ queryKey: keys.places });
          void client.invalidateQueries({ queryKey: keys.projects });
          break;
        case 'journal':
          void client.invalidateQueries({ queryKey: keys.journal });
          void client.invalidateQueries({ queryKey: keys.status });
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
