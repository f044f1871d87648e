import { formatOf, isUnclearJson } from '@rootmap/core';
import { api } from '../api/client.js';

export const isArchive = (name: string): boolean => /\.(zip|kmz|tar|tar\.gz|tgz)$/i.test(name);
/** What can be chosen to be brought in: an archive, or the main file of a dataset, which its companions go along with. */
export const canArrive = (name: string): boolean => isArchive(name) || formatOf(name) !== null || isUnclearJson(name);
/** A dropped file's path in the folder that was dropped, as far as the browser tells it. */
const pathOf = (file: File): string => ((file as { path?: string }).path ?? file.name).replace(/^(\.?\/)+/, '');

/** Sends what was dropped to the server. Each archive arrives alone; loose files arrive together, once all of them are there. */
export async function sendFiles(files: readonly File[], onSending: (file: File) => void, onArrived: (id: string) => void): Promise<void> {
  const drop = crypto.randomUUID();
  const loose = new Set<string>();
  for (const file of files) {
    onSending(file);
    const { id } = await api.upload(drop, pathOf(file), file);
    if (isArchive(file.name)) onArrived(id);
    else loose.add(id);
  }
  loose.forEach(onArrived);
}
