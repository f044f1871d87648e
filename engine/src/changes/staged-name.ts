/**
 * What a change stages beside its targets. The name holds nothing of the target's own, so that it is never longer than a file
 * system takes, however long that one is; names that earlier versions gave are known, too.
 */
export const stagedName = (changeId: string, step: number): string => `.rootmap-${changeId.slice(0, 8)}-${step}`;

/** A path, or a name alone, of something staged, or of a database's side file beside it. */
export const isStagedName = (path: string): boolean => /(^|\/)\.([^/]*\.)?rootmap-[0-9a-f]{8}-\d+(-journal|-wal|-shm)?$/.test(path);

/** Folder names, below a root, of what was deleted. */
export const TRASH = ['.rootmap', 'trash'] as const;
