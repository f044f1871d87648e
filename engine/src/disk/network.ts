import { statfsSync } from 'node:fs';
import { FLAVOUR } from './native-path.js';
import { realPath } from './real-path.js';

/** File system magic numbers of NFS, SMB and CIFS (Linux statfs(2)). */
const NETWORK = new Set([0x6969, 0x517b, 0xff534d42, 0xfe534d42]);

/** On a server: others change what is there without an event, and memory is not shared with them. Throws where nothing is there. */
export const isOnServer = (folder: string): boolean =>
  FLAVOUR === 'win32' ? realPath(folder).startsWith('//') : NETWORK.has(statfsSync(folder).type);
