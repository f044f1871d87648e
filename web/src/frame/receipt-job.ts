import type { JobView } from '@rootmap/core/contract';

/** A job that is done and told what it read, wrote and left out. */
export type ReceiptJob = Extract<JobView, { kind: 'import' | 'export' | 'copies'; state: 'done' }>;

export const hasReceipt = (job: JobView): job is ReceiptJob =>
  job.state === 'done' && (job.kind === 'import' || job.kind === 'export' || job.kind === 'copies');
