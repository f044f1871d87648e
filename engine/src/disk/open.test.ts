import fs, { mkdirSync, mkdtempSync, readFileSync, realpathSync, renameSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { join } from './native-path.js';

let folder: string;
beforeEach(() => {
  folder = realpathSync(mkdtempSync(join(tmpdir(), 'rootmap-open-')));
  for (const name of ['place', 'outside', 'own']) mkdirSync(join(folder, name));
  writeFileSync(join(folder, 'place/a.txt'), 'inside');
  writeFileSync(join(folder, 'outside/a.txt'), 'secret');
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** The module as it is on a system that tells, or does not tell, where a descriptor is. */
async function loaded(hasDescriptors: boolean): Promise<typeof import('./open.js')> {
  jest.resetModules();
  const { existsSync } = fs;
  const asked = jest.spyOn(fs, 'existsSync').mockImplementation((path) => (path === '/proc/self/fd' ? hasDescriptors : existsSync(path)));
  const open = await import('./open.js');
  const { setBounds } = await import('./bounds.js');
  asked.mockRestore();
  setBounds(() => ({ places: [join(folder, 'place')], own: [join(folder, 'own')] }));
  return open;
}
const outside: unknown = expect.objectContaining({ code: 'EOUTSIDE' });

// CWE-22 (path traversal), CWE-59 (link following).
describe.each([true, false])('with descriptors told: %s', (hasDescriptors) => {
  test('what stands in a place is read and written, what a link leads out to is not', async () => {
    const { openToRead, openToWrite, inFolder, asEntry } = await loaded(hasDescriptors);
    const at = (path: string): string => join(folder, path);
    symlinkSync(at('outside'), at('place/way'));
    symlinkSync(at('outside/a.txt'), at('place/link.txt'));
    const fd = openToRead(at('place/a.txt'));
    expect(readFileSync(fd, 'utf8')).toBe('inside');
    fs.closeSync(fd);
    fs.closeSync(openToWrite(at('place/new.txt'), 'wx'));
    expect(() => openToRead(at('place/way/a.txt'))).toThrow(outside);
    expect(() => openToRead(at('place/link.txt'))).toThrow(outside);
    expect(() => openToWrite(at('place/way/new.txt'), 'wx')).toThrow(outside);
    expect(() => openToWrite(at('place/link.txt'), 'w')).toThrow();
    expect(() => inFolder(at('place/way'), () => 1)).toThrow(outside);
    expect(() => asEntry(at('place/way/a.txt'), (held) => fs.unlinkSync(held))).toThrow(outside);
    expect(fs.readdirSync(at('outside'))).toEqual(['a.txt']);
    expect(readFileSync(at('outside/a.txt'), 'utf8')).toBe('secret');
  });

  test('a folder that is replaced by a link right after it was opened', async () => {
    const { openToRead } = await loaded(hasDescriptors);
    mkdirSync(join(folder, 'place/in'));
    writeFileSync(join(folder, 'place/in/a.txt'), 'inside');
    const { openSync } = fs;
    const swapped = jest.spyOn(fs, 'openSync').mockImplementationOnce((path, flags) => {
      renameSync(join(folder, 'place/in'), join(folder, 'place/was'));
      symlinkSync(join(folder, 'outside'), join(folder, 'place/in'));
      return openSync(path, flags);
    });
    expect(() => openToRead(join(folder, 'place/in/a.txt'))).toThrow(outside);
    swapped.mockRestore();
  });
});
