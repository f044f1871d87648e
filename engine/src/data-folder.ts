import { homedir } from 'node:os';
import { join, resolve } from './disk/native-path.js';

/** `ROOTMAP_DATA`, else the user's data folder. */
export function dataFolder(env: NodeJS.ProcessEnv = process.env): string {
  if (env['ROOTMAP_DATA']) return resolve(env['ROOTMAP_DATA']);
  return join(env['XDG_DATA_HOME'] ?? join(homedir(), '.local', 'share'), 'rootmap');
}
