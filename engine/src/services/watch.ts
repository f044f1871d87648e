import { fromNative } from '../disk/native-path.js';
import { isOnServer } from '../disk/network.js';
import { isStagedName } from '../changes/staged-name.js';

const SETTLE_MS = 150;
const POLL_MS = 30_000;

export interface Watched {
  readonly how: 'watched' | 'polled';
  stop(): Promise<void>;
}

/** Calls back, once things have settled, when anything below the folders changes. Network file systems are polled. */
export async function watchFolders(folders: readonly string[], onChange: () => void): Promise<Watched> {
  let timer: NodeJS.Timeout | null = null;
  const settle = (): void => {
    if (timer) clearTimeout(timer);
    timer = setTimeout(onChange, SETTLE_MS);
  };
  const stops: (() => Promise<void>)[] = [];
  let how: Watched['how'] = 'watched';
  for (const folder of folders) {
    try {
      if (isOnServer(folder)) throw new Error('a network file system');
      const { default: watcher } = await import('@parcel/watcher');
      const subscription = await watcher.subscribe(folder, (error, events) => {
        if (error || events.some((e) => !isStagedName(fromNative(e.path)))) settle();
      });
      stops.push(() => subscription.unsubscribe());
    } catch {
      how = 'polled'; // no watch to be had there: look again from time to time, which the ground line says
      stops.push(poll(settle));
    }
  }
  return {
    how,
    stop: async () => {
      if (timer) clearTimeout(timer);
      await Promise.all(stops.map((s) => s()));
    },
  };
}

function poll(onChange: () => void): () => Promise<void> {
  const timer = setInterval(onChange, POLL_MS);
  timer.unref();
  return () => Promise.resolve(clearInterval(timer));
}
