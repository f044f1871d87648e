import { workerData, type MessagePort } from 'node:worker_threads';
import { ProblemError, type Problem } from '@rootmap/core';
import { LARGE_REQUESTS } from '@rootmap/core/contract';
import { cut, type Outline, type Piece } from '@rootmap/engine/pieces';
import { checkText } from './body-schema.js';

export type Told = Outline | Piece | { readonly problem: Problem };

const { name, text, port } = workerData as { name: string; text: string; port: MessagePort };
const tell = (part: Told): void => port.postMessage(part);
try {
  for (const part of cut(checkText(LARGE_REQUESTS[name]!, text))) tell(part);
} catch (error) {
  if (!(error instanceof ProblemError)) throw error;
  tell({ problem: error.problem });
}
