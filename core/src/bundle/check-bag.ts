import { isUnsafePath } from '../address/unsafe-path.js';
import { byCodePoint } from '../code-point-order.js';
import { parseBagInfo, parseFetch, parseManifest } from './bag-text.js';

export interface BagProblem {
  readonly path: string;
  readonly problem: string;
  /** Something is not there, rather than wrong. */
  readonly incomplete: boolean;
}

/** One file whose bytes must have this checksum. */
export interface ExpectedChecksum {
  readonly path: string;
  readonly algorithm: BagAlgorithm;
  readonly checksum: string;
}

type BagAlgorithm = 'md5' | 'sha1' | 'sha256' | 'sha512';
const HEX_DIGITS: Readonly<Record<BagAlgorithm, number>> = { md5: 32, sha1: 40, sha256: 64, sha512: 128 };

/**
 * The structure of a bag: everything but the checksums themselves, which are given back to be verified.
 * @param sizes bytes of every file, by path in the bag; a folder that exists though empty ends with `/`
 * @param tagText text of a tag file at the top of the bag
 */
export function checkBag(
  sizes: ReadonlyMap<string, number>,
  tagText: (path: string) => string,
): { problems: BagProblem[]; checksums: ExpectedChecksum[] } {
  const problems: BagProblem[] = [];
  const wrong = (path: string, problem: string): void => void problems.push({ path, problem, incomplete: false });
  const lacking = (path: string, problem: string): void => void problems.push({ path, problem, incomplete: true });
  checkDeclaration(sizes, tagText, wrong);
  const payload = [...sizes.keys()].filter((p) => p.startsWith('data/') && !p.endsWith('/'));
  if (payload.length === 0 && ![...sizes.keys()].some((p) => p.startsWith('data/'))) wrong('data/', 'the payload folder is missing');
  const manifests = [...sizes.keys()].filter((p) => /^manifest-[^/]+\.txt$/i.test(p)).sort(byCodePoint);
  if (manifests.length === 0) wrong('manifest-sha512.txt', 'there is no payload manifest');
  const checksums: ExpectedChecksum[] = [];
  const listed: Set<string>[] = [];
  for (const manifest of manifests) listed.push(readManifest(manifest, true));
  for (const manifest of [...sizes.keys()].filter((p) => /^tagmanifest-[^/]+\.txt$/i.test(p))) readManifest(manifest, false);
  const everywhere = listed[0] ?? new Set<string>();
  listed.forEach((set, i) => {
    for (const path of new Set([...everywhere, ...set]))
      if (set.has(path) !== everywhere.has(path)) wrong(manifests[i]!, `${path} is not in every manifest`);
  });
  for (const path of payload) if (listed.length && !everywhere.has(path)) lacking(path, 'is in no manifest');
  for (const path of everywhere) if (!sizes.has(path)) lacking(path, 'is missing');
  if (sizes.has('fetch.txt')) checkFetch(tagText('fetch.txt'), everywhere, wrong);
  if (sizes.has('bag-info.txt')) checkOxum(tagText('bag-info.txt'), payload, sizes, wrong);
  return { problems, checksums: checksums.filter((c) => sizes.has(c.path)) };

  function readManifest(manifest: string, isPayload: boolean): Set<string> {
    const algorithm = /manifest-([^/]+)\.txt$/i.exec(manifest)![1]!.toLowerCase().replaceAll('-', '');
    const paths = new Set<string>();
    if (!(algorithm in HEX_DIGITS)) {
      wrong(manifest, `the checksum ${algorithm} is not known here`);
      return paths;
    }
    for (const line of parseManifest(tagText(manifest))) {
      if (!line) wrong(manifest, 'a line is no checksum and path');
      else if (isUnsafePath(line.path)) wrong(line.path, 'the path leaves the bag');
      else if (isPayload && !line.path.startsWith('data/')) wrong(line.path, 'a payload manifest lists only files in data/');
      else if (!isPayload && /^tagmanifest-/.test(line.path)) wrong(line.path, 'a tag manifest lists no tag manifest');
      else if (paths.has(line.path)) wrong(line.path, 'is listed twice');
      else {
        paths.add(line.path);
        if (line.checksum.length !== HEX_DIGITS[algorithm as BagAlgorithm]) wrong(line.path, `its ${algorithm} has the wrong length`);
        else checksums.push({ path: line.path, algorithm: algorithm as BagAlgorithm, checksum: line.checksum });
        if (!isPayload && !sizes.has(line.path)) lacking(line.path, 'is missing');
      }
    }
    return paths;
  }
}

type Note = (path: string, problem: string) => void;

/** Section 2.1.1: exactly two lines, in this order, UTF-8 without a byte order mark. */
function checkDeclaration(sizes: ReadonlyMap<string, number>, tagText: (path: string) => string, wrong: Note): void {
  if (!sizes.has('bagit.txt')) return wrong('bagit.txt', 'is missing');
  const text = tagText('bagit.txt');
  if (!/^BagIt-Version: ?\d+\.\d+(\r\n|\n|\r)Tag-File-Character-Encoding: ?\S+(\r\n|\n|\r)?$/.test(text))
    wrong('bagit.txt', 'does not say version and encoding in its two lines');
  else if (Number(/\d+/.exec(text)![0]) > 1) wrong('bagit.txt', 'is of a later version than 1.0');
}

function checkFetch(text: string, listed: ReadonlySet<string>, wrong: Note): void {
  for (const path of parseFetch(text)) {
    if (path === null) wrong('fetch.txt', 'a line is no address, length and path');
    else if (isUnsafePath(path) || !path.startsWith('data/')) wrong(path, 'the path leaves the payload');
    else if (!listed.has(path)) wrong(path, 'is to be fetched but in no manifest');
  }
}

function checkOxum(text: string, payload: readonly string[], sizes: ReadonlyMap<string, number>, wrong: Note): void {
  const oxum = parseBagInfo(text).find(([label]) => label.toLowerCase() === 'payload-oxum')?.[1];
  if (oxum === undefined) return;
  const bytes = payload.reduce((sum, p) => sum + (sizes.get(p) ?? 0), 0);
  const actual = `${bytes}.${payload.length}`;
  if (oxum !== actual) wrong('bag-info.txt', `says ${oxum} (bytes.files), the payload has ${actual}`);
}
