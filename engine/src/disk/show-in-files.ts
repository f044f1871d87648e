import { spawn } from 'node:child_process';
import { ProblemError } from '@rootmap/core';
import { dirname, toNative } from './native-path.js';

interface ShowCall {
  readonly program: string;
  readonly args: readonly string[];
  /** The arguments are quoted already. */
  readonly isVerbatim: boolean;
}

/**
 * How a system shows a file or a folder in its file manager. Windows and macOS mark a file in its folder; elsewhere its folder is opened
 * (xdg-utils).
 * @param program instead of that of the system; it is given the folder
 */
export function showCall(path: string, isFolder: boolean, platform: NodeJS.Platform, program: string | null): ShowCall {
  const folder = toNative(isFolder ? path : dirname(path));
  if (program !== null) return { program, args: [folder], isVerbatim: false };
  // A path of Windows has no quotation mark in it.
  if (platform === 'win32')
    return { program: 'explorer.exe', args: [isFolder ? `"${folder}"` : `/select,"${toNative(path)}"`], isVerbatim: true };
  if (platform === 'darwin') return { program: 'open', args: isFolder ? [folder] : ['-R', toNative(path)], isVerbatim: false };
  return { program: 'xdg-open', args: [folder], isVerbatim: false };
}

/** Opens the file manager of this machine at a path, and does not wait for it. Throws `wrong-use` where there is none. */
export function showInFiles(path: string, isFolder: boolean, program: string | null): Promise<void> {
  const call = showCall(path, isFolder, process.platform, program);
  return new Promise((resolve, reject) => {
    const child = spawn(call.program, call.args, { detached: true, stdio: 'ignore', windowsVerbatimArguments: call.isVerbatim });
    child.once('error', () =>
      reject(
        new ProblemError({
          code: 'wrong-use',
          message: `This machine has no ${call.program}, which shows folders. Copy the path, and open it in the program that you use.`,
        }),
      ),
    );
    child.once('spawn', () => (child.unref(), resolve()));
  });
}
