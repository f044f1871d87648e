import { explain, ProblemError, type Problem } from '@rootmap/core';

/** What is wrong with where it is written, or with the moment, and not with a source. */
const NOT_OF_A_SOURCE: ReadonlySet<Problem['code']> = new Set(['no-space', 'locked', 'changed-meanwhile', 'read-only', 'cancelled']);

/** Why a source could not be read to its end, for the middle of a sentence. Throws on what would meet the others, too. */
export function sourceFault(error: unknown): string {
  if (error instanceof ProblemError) {
    const { problem } = error;
    if (NOT_OF_A_SOURCE.has(problem.code)) throw error;
    return problem.code === 'failed' ? problem.why : explain(problem).replace(/\.$/, '');
  }
  const { code, message } = error as { code?: unknown; message?: unknown };
  if (typeof code === 'string' && /^(SQLITE_(FULL|IOERR|READONLY|CANTOPEN|NOMEM|CORRUPT)|ERR_WORKER)/.test(code)) throw error;
  return `it could not be read to its end (${String(message ?? error)})`;
}
