import { ProblemError } from '@rootmap/core';

/** What came of asking a server, in a line: the answer, or what keeps it from coming. */
export async function said(work: Promise<unknown>): Promise<string> {
  try {
    return JSON.stringify(await work);
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    const { problem } = error;
    return problem.code === 'no-service' ? `${problem.trouble}: ${problem.detail ?? ''}` : `${problem.code} ${error.message}`;
  }
}

/** A picture of one pixel. */
export const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
