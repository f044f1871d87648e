import { readFileSync } from 'node:fs';

/** From the package, which stands above what is built, whether that is bundled or not. */
export function version(): string {
  for (let folder = new URL('.', import.meta.url); folder.pathname !== '/'; folder = new URL('..', folder)) {
    const found = versionAt(new URL('package.json', folder));
    if (found !== null) return found;
  }
  return 'of unknown version';
}

function versionAt(file: URL): string | null {
  try {
    const { name, version } = JSON.parse(readFileSync(file, 'utf8')) as { name?: string; version?: string };
    return name === '@rootmap/cli' ? (version ?? null) : null;
  } catch {
    return null; // no package here
  }
}
