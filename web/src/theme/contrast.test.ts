import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';

/** WCAG 2.2, relative luminance and contrast ratio. */
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5]
    .map((i) => parseInt(hex.slice(i, i + 2), 16) / 255)
    .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
}
const contrast = (a: string, b: string): number => {
  const [x, y] = [luminance(a), luminance(b)].sort((p, q) => q - p);
  return (x! + 0.05) / (y! + 0.05);
};
test('the formula: black on white is 21, #767676 on white 4.54 (WCAG, understanding 1.4.3)', () => {
  expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 5);
  expect(contrast('#767676', '#ffffff')).toBeCloseTo(4.54, 2);
});

const css = readFileSync('web/src/theme/tokens.css', 'utf8');
const tokens = (mode: string): Record<string, string> =>
  Object.fromEntries(
    [
      ...css
        .slice(css.indexOf(`[data-mode='${mode}']`))
        .split('}')[0]!
        .matchAll(/--([a-z-]+): (#[0-9a-f]{6})/g),
    ].map((m) => [m[1]!, m[2]!]),
  );

describe.each(['light', 'dark'])('%s', (mode) => {
  const t = tokens(mode);
  const pairs: [string, string][] = [
    ...['paper', 'sheet', 'sunk'].flatMap((on): [string, string][] => [
      ['ink', on],
      ['soft', on],
    ]),
    ...['spruce', 'ochre', 'plum', 'slate'].flatMap((c): [string, string][] => [
      [c, 'sheet'],
      [c, `${c}-wash`],
      [c, 'paper'],
    ]),
    ['stone', 'paper'],
    ['stone', 'sheet'],
    ['stone', 'sunk'],
    ['on-spruce', 'spruce'],
    ['on-spruce', 'plum'],
    ['on-spruce', 'ochre'],
    ['top-text', 'top'],
    ['plum', 'plum-wash'],
    ['ink', 'spruce-wash'],
  ];
  test.each(pairs)('%s on %s is at least 4.5', (text, ground) => expect(contrast(t[text]!, t[ground]!)).toBeGreaterThanOrEqual(4.5));
});
