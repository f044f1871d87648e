import { existsSync } from 'node:fs';
import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';

/** Beside this file when it is bundled, else where its package is. Latin, Greek, Cyrillic and more (DejaVu, free to embed). */
function fontFile(name: string): string {
  const beside = fileURLToPath(new URL(`./${name}`, import.meta.url));
  return existsSync(beside) ? beside : createRequire(import.meta.url).resolve(`dejavu-fonts-ttf/ttf/${name}`);
}
export const PLAIN = fontFile('DejaVuSans.ttf');
export const BOLD = fontFile('DejaVuSans-Bold.ttf');
