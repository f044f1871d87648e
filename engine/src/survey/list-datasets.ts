import { describeGroup, groupFiles, unreadable, type Dataset, type FileGroup } from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { diskSentence } from '../disk/disk-problem.js';
import { platformBelow } from './platform.js';
import { listFiles, type Listing } from './list-files.js';

export interface Survey {
  readonly listing: Listing;
  readonly datasets: readonly Dataset[];
  readonly leftBehind: readonly string[];
}

/** Documents and other programs' containers have no header that is read. */
const NOTHING_TO_OPEN = platformBelow('');

/** Headers of one group of files; its files are closed again afterwards. */
export function describeBelow(folder: string, group: FileGroup): Dataset[] {
  if ([group.main, ...group.companions].some((f) => f.isPlaceholder)) return [inTheCloud(group)];
  if (group.format === 'document' || group.format === 'opaque') return describeGroup(group, NOTHING_TO_OPEN, diskSentence);
  const platform = platformBelow(folder, group);
  try {
    return describeGroup(group, platform, diskSentence);
  } finally {
    platform.close();
  }
}

/** Nothing of it is read, since that would fetch it. */
const inTheCloud = (group: FileGroup): Dataset => ({
  ...unreadable(group.kind, `${group.path} stands in the cloud only. Let the synchronised folder fetch it, and it is read.`),
  findings: [
    { code: 'in-the-cloud', message: `${group.path} stands in the cloud only. Let the synchronised folder fetch it, and it is read.` },
  ],
  id: group.path,
  group,
});

/** Lists a folder, groups its files and reads their headers, without any index. */
export function surveyFolder(folder: string, confinedTo = realPath(folder)): Survey {
  const listing = listFiles(folder, { confinedTo });
  const { groups, leftBehind } = groupFiles(listing.files);
  return { listing, datasets: groups.flatMap((g) => describeBelow(folder, g)), leftBehind };
}
