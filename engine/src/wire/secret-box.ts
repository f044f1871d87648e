import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from '../disk/native-path.js';
import { mkdirSync, openNew, readFileSync } from '../disk/files.js';

const KEY_BYTES = 32;
const IV_BYTES = 12;
const TAG_BYTES = 16;

/**
 * Seals what is secret (AES-256-GCM, NIST SP 800-38D), with a key in a file of its own that only its owner may read. The
 * key never stands beside what it seals in one file.
 */
export class SecretBox {
  private key: Promise<Buffer> | null = null;

  /** @param folder where the key's file is, made when it is first needed */
  constructor(private readonly folder: string) {}

  private readKey(): Promise<Buffer> {
    this.key ??= keyIn(this.folder).catch((error: unknown) => {
      this.key = null;
      throw error;
    });
    return this.key;
  }

  async seal(text: string): Promise<string> {
    const key = await this.readKey();
    const iv = randomBytes(IV_BYTES);
    const cipher = createCipheriv('aes-256-gcm', key, iv);
    return Buffer.concat([iv, cipher.update(text, 'utf8'), cipher.final(), cipher.getAuthTag()]).toString('base64');
  }

  /** Null: it was sealed with another key, or is damaged. */
  async open(sealed: string): Promise<string | null> {
    const bytes = Buffer.from(sealed, 'base64');
    if (bytes.length < IV_BYTES + TAG_BYTES) return null;
    const decipher = createDecipheriv('aes-256-gcm', await this.readKey(), bytes.subarray(0, IV_BYTES));
    decipher.setAuthTag(bytes.subarray(-TAG_BYTES));
    try {
      return Buffer.concat([decipher.update(bytes.subarray(IV_BYTES, -TAG_BYTES)), decipher.final()]).toString('utf8');
    } catch {
      return null; // the tag does not fit: nothing of it is used
    }
  }
}

async function keyIn(folder: string): Promise<Buffer> {
  const file = join(folder, 'services.key');
  if (!existsSync(file)) {
    mkdirSync(folder, { recursive: true });
    const handle = await openNew(file, 0o600);
    try {
      await handle.write(randomBytes(KEY_BYTES));
      await handle.sync();
    } finally {
      await handle.close();
    }
  }
  const key = readFileSync(file, null, 1024);
  if (key.length !== KEY_BYTES) throw new Error('the key of the services is damaged');
  return key;
}
