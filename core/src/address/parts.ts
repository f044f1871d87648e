/*
 * Paths inside something (a place, a project, an archive, a bundle) have `/` between their parts on every system. What stands
 * on a disk is for the engine's native paths.
 */

export const partsOf = (path: string): string[] => path.split('/');
export const joined = (parts: readonly string[]): string => parts.join('/');
/** The last part. */
export const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
/** All but the last part; '' where there is one only. */
export const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));
/** The first part. */
export const topOf = (path: string): string => path.split('/', 1)[0]!;
/** Whether a path is a folder's own, or of something in it. */
export const standsIn = (folder: string, path: string): boolean => path === folder || path.startsWith(`${folder}/`);
