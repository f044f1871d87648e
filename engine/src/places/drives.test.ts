import { expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { driveFolders, listDrives, parseLogicalDisks, parseMacMounts, parseMountInfo } from './drives.js';

const short = (drives: ReturnType<typeof parseMountInfo>) => drives.map((d) => [d.folder, d.kind, d.label, d.share]);

// The fields and numbers of Win32_LogicalDisk are those of Microsoft's CIM documentation; the rows are made up.
test('Windows: letters with their kinds, and the share behind one', () => {
  const text =
    '[{"DeviceID":"C:","DriveType":3,"ProviderName":null,"VolumeName":"System"},' +
    '{"DeviceID":"e:","DriveType":2,"ProviderName":null,"VolumeName":"DIVES"},' +
    '{"DeviceID":"G:","DriveType":4,"ProviderName":"\\\\\\\\harbour\\\\gis","VolumeName":"gis"},' +
    '{"DeviceID":"X:","DriveType":9,"ProviderName":null,"VolumeName":""}]';
  expect(short(parseLogicalDisks(text))).toEqual([
    ['C:/', 'fixed', 'System', null],
    ['E:/', 'removable', 'DIVES', null],
    ['G:/', 'network', 'gis', '//harbour/gis'],
    ['X:/', 'unknown', null, null],
  ]);
  expect(short(parseLogicalDisks('{"DeviceID":"C:","DriveType":3}'))).toEqual([['C:/', 'fixed', null, null]]);
  for (const text of ['', 'Get-CimInstance : Access denied', 'null', '[]', '[null]', '7']) expect(parseLogicalDisks(text)).toEqual([]);
});

// The form of a line is the example of proc(5), /proc/pid/mountinfo.
test('Linux: disks, sticks and shares; what the system mounts for itself is left out', () => {
  const text = [
    '36 35 98:0 / / rw,noatime master:1 - ext4 /dev/root rw,errors=continue',
    '40 36 0:5 / /proc rw - proc proc rw',
    '41 36 8:17 / /media/ana/JUNE\\040DIVES rw,nosuid shared:2 - vfat /dev/sdb1 rw',
    '42 36 0:50 / /mnt/gis rw - cifs //harbour/gis rw',
    '43 36 98:0 /home/ana /srv/bound rw - ext4 /dev/root rw',
    '44 36 8:33 / /data rw - xfs /dev/sdc1 rw',
    '45 36 0:22 / /dev/shm rw - tmpfs tmpfs rw',
  ].join('\n');
  const drives = parseMountInfo(text, (device) => device === '8:33');
  // What stands on those is told all the same, as what it is.
  expect(short(drives.filter((d) => d.isSystem))).toEqual([
    ['/dev/shm', 'memory', null, null],
    ['/proc', 'unknown', null, null],
    ['/srv/bound', 'fixed', null, null],
  ]);
  expect(short(drives.filter((d) => !d.isSystem))).toEqual([
    ['/', 'fixed', null, null],
    ['/data', 'removable', null, null],
    ['/media/ana/JUNE DIVES', 'removable', null, null],
    ['/mnt/gis', 'network', null, '//harbour/gis'],
  ]);
});

test('macOS: the system’s own disk, volumes and shares', () => {
  const text = [
    '/dev/disk3s1s1 on / (apfs, sealed, local, read-only, journaled)',
    'devfs on /dev (devfs, local, nobrowse)',
    '/dev/disk4s1 on /Volumes/DIVES (exfat, local, nodev, nosuid)',
    '//ana@harbour/gis on /Volumes/gis (smbfs, nodev, nosuid, mounted by ana)',
  ].join('\n');
  expect(short(parseMacMounts(text))).toEqual([
    ['/', 'fixed', null, null],
    ['/Volumes/DIVES', 'unknown', null, null],
    ['/Volumes/gis', 'network', null, '//ana@harbour/gis'],
  ]);
});

const here = 'of this machine: every mount of a disk that findmnt (util-linux) tells';
if (process.platform === 'linux') test(here, findmnt);
async function findmnt(): Promise<void> {
  const rows = execFileSync('findmnt', ['--real', '--noheadings', '--list', '--output', 'TARGET,FSTYPE,FSROOT'], { encoding: 'utf8' });
  const disks = rows
    .trim()
    .split('\n')
    .map((row) => row.split(/\s+/))
    .filter(([target, type, root]) => /^(ext4|xfs|btrfs|vfat)$/.test(type!) && root === '/' && !target!.startsWith('/boot'));
  const told = (await listDrives()).filter((d) => !d.isSystem);
  expect(told.map((d) => d.folder)).toEqual(expect.arrayContaining(disks.map(([target]) => target!)));
  expect(driveFolders()).toEqual(told.map((d) => d.folder));
}
