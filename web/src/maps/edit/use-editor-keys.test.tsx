/** @jest-environment jsdom */
import { afterEach, expect, jest, test } from '@jest/globals';
import { cleanup, fireEvent, render } from '@testing-library/react';
import { useEditorKeys } from './use-editor-keys.js';

afterEach(cleanup);

function Keys(props: Parameters<typeof useEditorKeys>[0]) {
  useEditorKeys(props);
  return <input aria-label="field" />;
}

test('Ctrl+S saves, Ctrl+Z takes back, Ctrl+Shift+Z does again, whatever the letter is called with Shift', () => {
  const keys = { save: jest.fn(), undo: jest.fn(), redo: jest.fn() };
  const { getByLabelText, rerender, unmount } = render(<Keys {...keys} />);
  const counts = (): number[] => [keys.save, keys.undo, keys.redo].map((f) => f.mock.calls.length);
  expect(fireEvent.keyDown(window, { key: 's', ctrlKey: true })).toBe(false); // the browser's own saving is not wanted
  fireEvent.keyDown(window, { key: 'z', metaKey: true });
  fireEvent.keyDown(window, { key: 'Z', ctrlKey: true, shiftKey: true });
  fireEvent.keyDown(window, { key: 'z' });
  expect(counts()).toEqual([1, 1, 1]);
  const field = getByLabelText('field');
  fireEvent.keyDown(field, { key: 'z', ctrlKey: true }); // a field takes its own letters back
  fireEvent.keyDown(field, { key: 's', ctrlKey: true });
  expect(counts()).toEqual([2, 1, 1]);
  rerender(<Keys {...keys} undo={null} />);
  fireEvent.keyDown(window, { key: 'z', ctrlKey: true });
  expect(counts()).toEqual([2, 1, 1]);
  unmount();
  fireEvent.keyDown(window, { key: 's', ctrlKey: true });
  expect(counts()).toEqual([2, 1, 1]);
});
