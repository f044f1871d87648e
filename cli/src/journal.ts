import type { PageLayout } from '@rootmap/core/contract';
import type { EditionMemory, RunOptions } from '@rootmap/engine';
import { recoverChanges } from '@rootmap/engine';

/** Loaded only where something is written or kept: reading commands begin without it. */
const loadStore = () => import('@rootmap/engine/store');
type SqlJournal = InstanceType<Awaited<ReturnType<typeof loadStore>>['SqlJournal']>;

/** Opens the journal for one command; takes up what an earlier process left, and says so. */
export async function withJournal<T>(
  work: (options: RunOptions & { readonly journal: SqlJournal }, editions: EditionMemory) => Promise<T>,
): Promise<T> {
  const { openStore, dataFolder, KnownEditions, SqlJournal: Kept } = await loadStore();
  const store = await openStore(dataFolder());
  try {
    const journal = new Kept(store);
    for (const { change, outcome, why } of await recoverChanges(journal))
      process.stderr.write(
        outcome === 'waiting'
          ? `rootmap: "${change.title}" is not finished. ${why!} Until then its folder cannot be changed.\n`
          : `rootmap: "${change.title}" was left midway and has been ${outcome === 'finished' ? 'finished' : 'taken back'}.\n`,
      );
    return await work({ journal, program: 'rootmap' }, new KnownEditions(store));
  } finally {
    await store.destroy();
  }
}

/** Layouts of pages that people keep. */
export async function keptLayouts(): Promise<readonly PageLayout[]> {
  const { openStore, dataFolder, KnownShelves } = await loadStore();
  const store = await openStore(dataFolder());
  try {
    return (await new KnownShelves(store).all()).layouts;
  } finally {
    await store.destroy();
  }
}
