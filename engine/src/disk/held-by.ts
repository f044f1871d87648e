import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { FLAVOUR, toNative } from './native-path.js';

const PATIENCE_MS = 4000;
const MOST_NAMED = 3;

/**
 * Asks Windows' Restart Manager which programs have a file open (rstrtmgr.h: RmStartSession, RmRegisterResources, RmGetList;
 * the members of RM_PROCESS_INFO stand in that order and width). Prints a JSON list of process ids and names.
 */
const QUERY = `
$ErrorActionPreference = 'Stop'
Add-Type -TypeDefinition @'
using System;
using System.Collections.Generic;
using System.Runtime.InteropServices;
public static class Holders {
  [StructLayout(LayoutKind.Sequential)]
  struct Unique { public int Id; public System.Runtime.InteropServices.ComTypes.FILETIME Started; }
  [StructLayout(LayoutKind.Sequential, CharSet = CharSet.Unicode)]
  public struct Info {
    Unique process;
    [MarshalAs(UnmanagedType.ByValTStr, SizeConst = 256)] string application;
    [MarshalAs(UnmanagedType.ByValTStr, SizeConst = 64)] string service;
    int kind; uint status; uint session;
    [MarshalAs(UnmanagedType.Bool)] bool restartable;
    public int Id { get { return process.Id; } }
    public string Name { get { return application; } }
  }
  [DllImport("rstrtmgr.dll", CharSet = CharSet.Unicode)]
  static extern int RmStartSession(out uint session, int flags, System.Text.StringBuilder key);
  [DllImport("rstrtmgr.dll")]
  static extern int RmEndSession(uint session);
  [DllImport("rstrtmgr.dll", CharSet = CharSet.Unicode)]
  static extern int RmRegisterResources(uint session, uint files, string[] names, uint processes, IntPtr ids, uint services, IntPtr serviceNames);
  [DllImport("rstrtmgr.dll")]
  static extern int RmGetList(uint session, out uint needed, ref uint count, [In, Out] Info[] list, ref uint reasons);
  const int MoreData = 234;
  public static Info[] Of(string file) {
    uint session;
    if (RmStartSession(out session, 0, new System.Text.StringBuilder(33)) != 0) return new Info[0];
    try {
      if (RmRegisterResources(session, 1, new[] { file }, 0, IntPtr.Zero, 0, IntPtr.Zero) != 0) return new Info[0];
      uint needed, count = 0, reasons = 0;
      if (RmGetList(session, out needed, ref count, null, ref reasons) != MoreData) return new Info[0];
      var list = new Info[needed];
      count = needed;
      if (RmGetList(session, out needed, ref count, list, ref reasons) != 0) return new Info[0];
      Array.Resize(ref list, (int)count);
      return list;
    } finally { RmEndSession(session); }
  }
}
'@
ConvertTo-Json -Compress @([Holders]::Of($env:ROOTMAP_HELD) | ForEach-Object { @{ Id = $_.Id; Name = $_.Name } })
`;

const run = promisify(execFile);

/** Names of the programs that have a file open, as Windows tells them; none where it does not tell, and on systems without such locks. */
export async function programsHolding(path: string): Promise<readonly string[]> {
  if (FLAVOUR !== 'win32') return [];
  const encoded = Buffer.from(QUERY, 'utf16le').toString('base64');
  const options = { timeout: PATIENCE_MS, windowsHide: true, env: { ...process.env, ROOTMAP_HELD: toNative(path) } };
  try {
    const { stdout } = await run('powershell.exe', ['-NoProfile', '-NonInteractive', '-EncodedCommand', encoded], options);
    return parseHolders(stdout, process.pid);
  } catch {
    return []; // a system that does not tell: the file is named, and the program is not
  }
}

/** What `QUERY` prints, as names; each once, without this process. */
export function parseHolders(text: string, own: number): readonly string[] {
  const rows = parsed(text).filter((r) => typeof r?.Name === 'string' && r.Name.trim() !== '' && r.Id !== own);
  return [...new Set(rows.map((r) => r!.Name!.trim()))].slice(0, MOST_NAMED);
}

function parsed(text: string): ({ readonly Id?: unknown; readonly Name?: string } | null)[] {
  try {
    return [JSON.parse(text) as object | object[]].flat();
  } catch {
    return []; // something in words
  }
}
