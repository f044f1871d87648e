/** Tag files of a bag as text, written and read. RFC 8493 (BagIt 1.0). */

export const BAG_DECLARATION = 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n';

/** Section 2.1.3: in manifests LF, CR and % of a path are percent-encoded, nothing else. */
const encodePath = (path: string): string => path.replaceAll('%', '%25').replaceAll('\n', '%0A').replaceAll('\r', '%0D');
const decodePath = (path: string): string => path.replace(/%(0A|0D|25)/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)));

/** A manifest, one line a file, in the order given. */
export const writeManifest = (files: readonly { readonly path: string; readonly checksum: string }[]): string =>
  files.map((f) => `${f.checksum}  ${encodePath(f.path)}\n`).join('');

export interface BagInfo {
  readonly baggingDate: string;
  readonly payloadBytes: number;
  readonly payloadFiles: number;
  readonly description: string;
  readonly software: string;
  /** The bag is in a zip that carries a seal. */
  readonly isSealed: boolean;
}

/** Section 2.2.2 allows labels of one's own: the zip's comment has the CRC-32 of all before its last record. */
export const SEAL_LABEL = 'Zip-Seal';

/** Section 2.2.2. `Payload-Oxum` is octets, a point, number of files. */
export const writeBagInfo = (i: BagInfo): string =>
  [
    `Bagging-Date: ${i.baggingDate}`,
    `Payload-Oxum: ${i.payloadBytes}.${i.payloadFiles}`,
    `External-Description: ${i.description.replace(/\s+/g, ' ')}`,
    `Bag-Software-Agent: ${i.software}`,
    ...(i.isSealed ? [`${SEAL_LABEL}: CRC-32 in the comment`] : []),
    '',
  ].join('\n');

const linesOf = (text: string): string[] => text.split(/\r\n|\n|\r/).filter((line) => line !== '');

export interface ManifestLine {
  readonly checksum: string;
  readonly path: string;
}

/** Lines of a manifest; null for one that is none. A `*` or `./` before the path, as older tools write it, is read over. */
export function parseManifest(text: string): (ManifestLine | null)[] {
  return linesOf(text).map((line) => {
    const m = /^([0-9A-Fa-f]+)[ \t]+\*?(?:\.\/)?(.+)$/.exec(line);
    return m ? { checksum: m[1]!.toLowerCase(), path: decodePath(m[2]!) } : null;
  });
}

export const parseFetch = (text: string): (string | null)[] =>
  linesOf(text).map((line) => {
    const m = /^\S+[ \t]+(?:\d+|-)[ \t]+(.+)$/.exec(line);
    return m ? decodePath(m[1]!) : null;
  });

/** Labels and values of `bag-info.txt`, folded lines joined, in file order. */
export function parseBagInfo(text: string): [label: string, value: string][] {
  const out: [string, string][] = [];
  for (const line of linesOf(text)) {
    const last = out[out.length - 1];
    if (/^[ \t]/.test(line) && last) last[1] += ` ${line.trim()}`;
    else {
      const colon = line.indexOf(':');
      if (colon > 0) out.push([line.slice(0, colon).trim(), line.slice(colon + 1).trim()]);
    }
  }
  return out;
}
