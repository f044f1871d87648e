import { homedir } from 'node:os';
import { fromNative, join, resolve } from './disk/native-path.js';

/** `ROOTMAP_DATA`, else where the system keeps what programs of an account remember. */
export function dataFolder(env: NodeJS.ProcessEnv = process.env): string {
  return env['ROOTMAP_DATA'] ? resolve(env['ROOTMAP_DATA']) : join(keptBySystem(env), 'rootmap');
}

/**
 * XDG Base Directory Specification; Windows: "Known Folders", FOLDERID_LocalAppData, which is on a drive of the machine even where
 * the account's own folder is on a server; macOS: "File System Programming Guide".
 */
function keptBySystem(env: NodeJS.ProcessEnv): string {
  const home = fromNative(homedir());
  if (process.platform === 'win32') return env['LOCALAPPDATA'] ? fromNative(env['LOCALAPPDATA']) : join(home, 'AppData', 'Local');
  if (process.platform === 'darwin') return join(home, 'Library', 'Application Support');
  return env['XDG_DATA_HOME'] ?? join(home, '.local', 'share');
}
