import { existsSync, readFileSync } from 'node:fs';
import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { byCodePoint } from '@rootmap/core';
import type { DriveKind, DriveView } from '@rootmap/core/contract';
import { toNative } from '../disk/native-path.js';

/** A–Z without A and B, which are those of disks that are put in: nobody waits for them unless they are named. */
const LETTERS = Array.from('CDEFGHIJKLMNOPQRSTUVWXYZ', (letter) => `${letter}:/`);

/** The roots of Windows' drives that are there now. */
export const lettersInUse = (): string[] => LETTERS.filter((drive) => existsSync(drive));

/** The folders on which drives stand now: quick, and asked again and again. */
export const driveFolders = (): string[] =>
  process.platform === 'win32'
    ? lettersInUse()
    : process.platform === 'linux'
      ? linuxDrives().flatMap((d) => (d.isSystem ? [] : [d.folder]))
      : [];

const PATIENCE_MS = 10_000;
const run = promisify(execFile);
const told = async (program: string, args: readonly string[]): Promise<string> => {
  try {
    return (await run(program, [...args], { timeout: PATIENCE_MS, windowsHide: true })).stdout;
  } catch {
    return ''; // a system that does not tell; the kinds stay unknown
  }
};

/** Every drive and share of this machine, with its kind as the system tells it. */
export async function listDrives(): Promise<DriveView[]> {
  if (process.platform === 'linux') return linuxDrives();
  if (process.platform === 'darwin') return parseMacMounts(await told('/sbin/mount', []));
  const query = 'Get-CimInstance Win32_LogicalDisk | Select-Object DeviceID,DriveType,ProviderName,VolumeName | ConvertTo-Json -Compress';
  const known = parseLogicalDisks(await told('powershell.exe', ['-NoProfile', '-NonInteractive', '-Command', query]));
  const untold = lettersInUse().filter((folder) => !known.some((d) => d.folder === folder));
  return [...known, ...untold.map((folder) => drive(folder, 'unknown'))].sort((a, b) => byCodePoint(a.folder, b.folder));
}

const drive = (folder: string, kind: DriveKind, label: string | null = null, share: string | null = null, isSystem = false): DriveView => ({
  folder,
  shown: folder.startsWith('/') ? folder : toNative(folder),
  kind,
  label,
  share,
  isSystem,
});

/** `DriveType` of Win32_LogicalDisk, as Microsoft's CIM documentation numbers them. */
const DRIVE_TYPES: Readonly<Record<number, DriveKind>> = { 2: 'removable', 3: 'fixed', 4: 'network', 5: 'optical', 6: 'memory' };

/** What PowerShell gives of Win32_LogicalDisk as JSON: one object, or a list; '' or something else where it told nothing. */
export function parseLogicalDisks(text: string): DriveView[] {
  const rows = [parsed(text)].flat();
  return rows
    .filter((row): row is LogicalDisk => /^[A-Z]:$/i.test((row as LogicalDisk | null)?.DeviceID ?? ''))
    .map((row) =>
      drive(
        `${row.DeviceID!.toUpperCase()}/`,
        DRIVE_TYPES[row.DriveType ?? 0] ?? 'unknown',
        row.VolumeName || null,
        row.ProviderName ? row.ProviderName.replaceAll('\\', '/') : null,
      ),
    );
}
function parsed(text: string): LogicalDisk | LogicalDisk[] {
  try {
    return (JSON.parse(text) as LogicalDisk | LogicalDisk[] | null) ?? [];
  } catch {
    return []; // PowerShell said something in words: the drives are told by their letters alone
  }
}
interface LogicalDisk {
  readonly DeviceID?: string;
  readonly DriveType?: number;
  readonly ProviderName?: string | null;
  readonly VolumeName?: string | null;
}

const NETWORK_TYPES = /^(nfs\d?|cifs|smb\d?|smbfs|afpfs|webdav|davfs|fuse\.(sshfs|davfs2|rclone))$/;
/** What people keep files on; all else that is mounted is the system's own. */
const DISK_TYPES = /^(ext[234]|xfs|btrfs|zfs|f2fs|jfs|reiserfs|ntfs3?|fuseblk|vfat|exfat|msdos|hfs(plus)?|apfs|udf|iso9660)$/;

function linuxDrives(): DriveView[] {
  let text: string;
  try {
    text = readFileSync('/proc/self/mountinfo', 'utf8');
  } catch {
    return []; // a system that shows no mounts
  }
  return parseMountInfo(text, isRemovable);
}

/** Block devices say so themselves, partitions by the disk that they are on (sysfs, Documentation/ABI/stable/sysfs-block). */
function isRemovable(device: string): boolean {
  const flag = [`/sys/dev/block/${device}/removable`, `/sys/dev/block/${device}/../removable`].find((file) => existsSync(file));
  return flag !== undefined && readFileSync(flag, 'utf8').trim() === '1';
}

/**
 * The drives of /proc/self/mountinfo: proc(5), section 3.5. Fields: id, parent, major:minor, root, mount point, options, optional
 * fields up to `-`, type, source. Spaces and such stand as octal escapes. Parts of a drive that are mounted elsewhere count as the
 * system's own.
 */
export function parseMountInfo(text: string, removable: (device: string) => boolean): DriveView[] {
  const found = new Map<string, DriveView>();
  for (const line of text.split('\n')) {
    const [before = '', after = ''] = line.split(' - ');
    const [, , device = '', root = '', point = ''] = before.split(' ');
    const [type = '', source = ''] = after.split(' ');
    const folder = unescaped(point);
    if (folder === '') continue;
    const isNetwork = NETWORK_TYPES.test(type);
    const isSystem = (!isNetwork && !DISK_TYPES.test(type)) || root !== '/' || /^\/(boot|snap|proc|sys)(\/|$)/.test(folder);
    const isPluggable = (): boolean => removable(device) || /^\/(media|run\/media)\//.test(folder);
    found.set(folder, drive(folder, kindOf(type, isPluggable), null, isNetwork ? unescaped(source) : null, isSystem));
  }
  return [...found.values()].sort((a, b) => byCodePoint(a.folder, b.folder));
}

function kindOf(type: string, isPluggable: () => boolean): DriveKind {
  if (NETWORK_TYPES.test(type)) return 'network';
  if (type === 'iso9660' || type === 'udf') return 'optical';
  if (type === 'tmpfs' || type === 'ramfs') return 'memory';
  if (!DISK_TYPES.test(type)) return 'unknown';
  return isPluggable() ? 'removable' : 'fixed';
}

const unescaped = (text: string): string => text.replace(/\\([0-7]{3})/g, (_, octal: string) => String.fromCharCode(parseInt(octal, 8)));

/** `mount` of macOS: `SOURCE on FOLDER (type, options)`; common practice, no source. */
export function parseMacMounts(text: string): DriveView[] {
  return text.split('\n').flatMap((line) => {
    const [, source = '', folder = '', type = ''] = /^(.*) on (\/.*?) \((\w+)/.exec(line) ?? [];
    if (folder !== '/' && !folder.startsWith('/Volumes/')) return [];
    const isNetwork = NETWORK_TYPES.test(type);
    const kind: DriveKind = isNetwork ? 'network' : folder === '/' ? 'fixed' : /^(cd9660|udf)$/.test(type) ? 'optical' : 'unknown';
    return [drive(folder, kind, null, isNetwork ? source : null)];
  });
}
