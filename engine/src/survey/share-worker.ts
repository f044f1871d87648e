import { parentPort } from 'node:worker_threads';
import { useDiskSettings, type DiskSettings } from '../disk/disk-settings.js';
import type { ListPart } from './list-files.js';
import { packShare, surveyShare, type Signatures, type SurveyShare } from './survey-index.js';

export interface ShareRequest {
  readonly disk: DiskSettings;
  readonly root: string;
  readonly confinedTo: string;
  readonly part: ListPart;
  readonly known: Signatures;
}
export type ShareReply = { readonly share: SurveyShare } | { readonly failed: string };

// The second thread of a survey. It needs neither the database nor the use cases, so that it starts in a moment.
const port = parentPort;
if (!port) throw new Error('share-worker.js runs in a worker thread only');
port.on('message', ({ disk, root, confinedTo, part, known }: ShareRequest) => {
  useDiskSettings(disk);
  let reply: ShareReply;
  try {
    reply = { share: packShare(surveyShare(root, known, confinedTo, part)) };
  } catch (error) {
    reply = { failed: String(error) };
  }
  port.postMessage(reply);
});
