import { createHash } from 'node:crypto';
import { createReadStream } from '../disk/files.js';

/** SHA-256 of a file, in hexadecimal, read piece by piece. */
export async function sha256Of(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const piece of createReadStream(path, { highWaterMark: 1 << 18 })) hash.update(piece as Buffer);
  return hash.digest('hex');
}
