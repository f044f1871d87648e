/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { act, renderHook } from '@testing-library/react';
import { useOwnScales } from './own-scales.js';

afterEach(() => localStorage.clear());

test("a list of scales of one's own is sorted, kept without doubles, shared by all that show it, and can be the usual one again", () => {
  const [one, other] = [renderHook(useOwnScales), renderHook(useOwnScales)];
  const before = one.result.current.scales;
  act(() => one.result.current.set([...before, 7500, 7500]));
  expect(other.result.current.scales).toContain(7500);
  expect(other.result.current.scales).toEqual([...before, 7500].sort((a, b) => a - b));
  expect(one.result.current.isUsual).toBe(false);
  act(() => other.result.current.usual());
  expect(one.result.current.scales).toEqual(before);
});

test.each(['{', '3', '["a", -1, null]'])('what is kept as %s does no harm', (text) => {
  localStorage.setItem('rootmap.scales', text);
  const { result } = renderHook(useOwnScales);
  expect(result.current.scales.every((s) => s > 0)).toBe(true);
});
