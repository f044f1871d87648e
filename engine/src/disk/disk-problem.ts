import { explain, type Problem, ProblemError } from '@rootmap/core';

/** The operating system's code; errors of our own making have none. */
const errnoOf = (error: unknown): string | null => {
  const { code, syscall } = (error ?? {}) as { code?: unknown; syscall?: unknown };
  return typeof code === 'string' && syscall !== undefined && /^E[A-Z0-9]+$/.test(code) ? code : null;
};

export const isMissing = (error: unknown): boolean => ['ENOENT', 'ENOTDIR'].includes(errnoOf(error) ?? '');

/** What the operating system refused, as a problem; null when the error is not the disk's. */
export function diskProblem(error: unknown, path: string): Problem | null {
  switch (errnoOf(error)) {
    case null:
      return null;
    case 'ENOENT':
    case 'ENOTDIR':
    case 'ELOOP': // links that lead to each other: nothing stands there
      return { code: 'missing', path };
    case 'EACCES':
    case 'EPERM':
      return { code: 'permission', path };
    case 'ENOSPC':
    case 'EDQUOT':
      return { code: 'no-space', path };
    case 'EBUSY':
    case 'ETXTBSY':
      return { code: 'busy', path };
    case 'ENAMETOOLONG':
      return { code: 'bad-name', name: path, why: 'it is longer than a disk takes' };
    case 'EINVAL': // a link on the way that is none any more
      return (error as { syscall?: string }).syscall === 'readlink'
        ? { code: 'changed-meanwhile', path }
        : { code: 'io', path, errno: 'EINVAL' };
    case 'EISDIR':
      return { code: 'not-a-file', path, what: 'a folder' };
    case 'ENXIO':
      return { code: 'not-a-file', path, what: 'a pipe, a socket or a device' };
    case 'EOUTSIDE':
      return { code: 'outside-places', path, why: 'a link on the way leads out of the places' };
    case 'EROFS':
      return { code: 'read-only', path };
    case 'EEXIST':
    case 'ENOTEMPTY':
      return { code: 'exists', path };
    default:
      return { code: 'io', path, errno: errnoOf(error)! };
  }
}

/** The sentence for a failure of the disk; null for any other error, which is ours and must not be swallowed. */
export function diskSentence(error: unknown): string | null {
  if (error instanceof ProblemError) return explain(error.problem);
  const problem = diskProblem(error, (error as { path?: string }).path ?? 'The file');
  return problem && explain(problem);
}

/** Runs a disk operation; a failure of the disk comes out as a `ProblemError` that names the path. */
export function onDisk<T>(path: string, run: () => T): T {
  try {
    return run();
  } catch (error) {
    const problem = diskProblem(error, path);
    throw problem ? new ProblemError(problem) : error;
  }
}
