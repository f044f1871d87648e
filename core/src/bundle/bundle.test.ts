import { describe, expect, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { parseBagInfo, parseManifest, writeBagInfo, writeManifest } from './bag-text.js';
import { checkBag } from './check-bag.js';
import { unportableName, unportablePaths } from '../naming/portable-name.js';

interface Case {
  id: string;
  verdict: 'valid' | 'invalid' | 'incomplete' | 'implementation-defined';
  files: Record<string, string>;
}
/** Cases for RFC 8493, from memory of its text (testdata/checks/bagit-rfc8493.json says so). */
const { cases } = JSON.parse(readFileSync('testdata/checks/bagit-rfc8493.json', 'utf8')) as { cases: Case[] };

function verdictOf(files: Record<string, string>): string {
  const sizes = new Map(Object.entries(files).map(([p, text]) => [p, Buffer.byteLength(text)]));
  const { problems, checksums } = checkBag(sizes, (p) => files[p] ?? '');
  const wrong = checksums.filter((c) => createHash(c.algorithm).update(files[c.path]!).digest('hex') !== c.checksum);
  if (problems.some((p) => !p.incomplete) || wrong.length) return 'invalid';
  return problems.length ? 'incomplete' : 'valid';
}

describe('RFC 8493, every case that is not left to the implementation', () => {
  // The case in UTF-16 lists only its declaration: no whole bag to check.
  const decided = cases.filter((c) => c.verdict !== 'implementation-defined' && Object.keys(c.files).length > 1);
  test('there are enough of them', () => expect(decided.length).toBeGreaterThan(35));
  test.each(decided.map((c) => [c.id, c] as const))('%s', (_, c) => {
    const verdict = verdictOf(c.files);
    // Both mean 'do not use it'; a bag can be incomplete and invalid at once.
    if (c.verdict === 'incomplete') expect(['incomplete', 'invalid']).toContain(verdict);
    else expect(verdict).toBe(c.verdict);
  });
  test.each([
    ['asterisk-path', 'valid'],
    ['dot-slash-path', 'valid'],
    ['manifest-name-case', 'valid'],
    ['blank-line-manifest', 'valid'],
    ['version-2.0', 'invalid'],
  ])('%s is %s here', (id, verdict) => expect(verdictOf(cases.find((c) => c.id === id)!.files)).toBe(verdict));
});

test('manifests encode LF, CR and % only, and read back', () => {
  const files = ['data/a\nb.txt', 'data/100%25.txt', 'data/a b\rü.txt'].map((path) => ({ path, checksum: 'ab' }));
  const text = writeManifest(files);
  expect(text).toBe('ab  data/a%0Ab.txt\nab  data/100%2525.txt\nab  data/a b%0Dü.txt\n');
  expect(parseManifest(text)).toEqual(files.map(({ path, checksum }) => ({ checksum, path })));
});
test('bag-info folds are joined, labels may repeat', () => {
  expect(parseBagInfo('A: one\n  two\n\tthree\nB: x\nB: y\n')).toEqual([
    ['A', 'one two three'],
    ['B', 'x'],
    ['B', 'y'],
  ]);
  expect(
    writeBagInfo({ baggingDate: '2026-01-02', payloadBytes: 18, payloadFiles: 2, description: 'a\nb', software: 's', isSealed: false }),
  ).toContain('Payload-Oxum: 18.2\nExternal-Description: a b\n');
});

describe('names on Windows (Microsoft Learn, "Naming Files, Paths, and Namespaces")', () => {
  const { rows } = JSON.parse(readFileSync('testdata/checks/windows-names.json', 'utf8')) as {
    rows: { name: string; ok: boolean | null }[];
  };
  test.each(rows.filter((r) => r.ok !== null).map((r) => [r.name.slice(0, 40), r.name, r.ok!] as const))('%j', (_, name, ok) =>
    expect(unportableName(name) === null).toBe(ok),
  );
  test('case collisions and long paths', () => {
    expect(unportablePaths(['a/B.shp', 'a/b.shp'], 10).map((f) => f.why)).toEqual(['differs only in case from a/B.shp']);
    expect(unportablePaths([`${'x'.repeat(100)}/${'y'.repeat(100)}`], 60)).toHaveLength(1);
    expect(unportablePaths([`${'x'.repeat(100)}/${'y'.repeat(97)}`], 60)).toHaveLength(0);
  });
});
