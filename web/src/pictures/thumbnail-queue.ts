import type { ThumbnailView } from '@rootmap/core/contract';
import { api } from '../api/client.js';

/** One request at a time, so that the connections stay free for what a person does. */
const AT_ONCE = 8;

interface Wanted {
  readonly project: string;
  readonly dataset: string;
  readonly resolve: (thumbnail: ThumbnailView | null) => void;
  readonly reject: (error: unknown) => void;
}

const waiting: Wanted[] = [];
let isAsking = false;

/** A thumbnail, asked for together with others; what was wanted last comes first, since that is what is in sight. */
export function askForThumbnail(project: string, dataset: string): Promise<ThumbnailView | null> {
  return new Promise((resolve, reject) => {
    waiting.push({ project, dataset, resolve, reject });
    if (!isAsking) queueMicrotask(() => void askNext());
  });
}

async function askNext(): Promise<void> {
  if (isAsking) return;
  isAsking = true;
  while (waiting.length > 0) {
    const { project } = waiting.at(-1)!;
    const batch: Wanted[] = [];
    for (let i = waiting.length - 1; i >= 0 && batch.length < AT_ONCE; i--)
      if (waiting[i]!.project === project) batch.push(...waiting.splice(i, 1));
    try {
      const thumbnails = await api.thumbnails(
        project,
        batch.map((w) => w.dataset),
      );
      batch.forEach((w, i) => w.resolve(thumbnails[i] ?? null));
    } catch (error) {
      batch.forEach((w) => w.reject(error));
    }
  }
  isAsking = false;
}
