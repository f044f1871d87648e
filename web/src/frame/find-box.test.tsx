/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import { useLocation } from 'react-router';
import { answerWith, show } from '../../test/render.js';
import { FindBox } from './find-box.js';
import { setSingleKeys } from './single-keys.js';

afterEach(() => {
  cleanup();
  localStorage.clear();
});
function Where() {
  const { pathname, search } = useLocation();
  return <div aria-label="Page">{pathname + search}</div>;
}
const page = (): string | null => screen.getByLabelText('Page').textContent;
const field = (): HTMLInputElement => screen.getByRole('combobox', { name: 'Find' });
function shown(key: string | null): void {
  answerWith({ 'GET /api/projects': { body: [{ key: 'k', title: 'Tern colonies', root: '/d/tern' }] } });
  show(
    <>
      <FindBox projectKey={key} />
      <textarea aria-label="Other" />
      <Where />
    </>,
  );
}

test('what is typed while the list is loaded is looked for; a command, a page and a help are found by their words', async () => {
  shown(null);
  fireEvent.focus(field());
  fireEvent.change(field(), { target: { value: 'undo' } });
  await waitFor(() => expect(screen.getByRole('option', { name: 'Undo a change' })).toBeTruthy(), { timeout: 10_000 });
  expect(field().value).toBe('undo');
  // What is done in a project is not offered where none is open.
  fireEvent.change(field(), { target: { value: 'relatively' } });
  await waitFor(() => expect(screen.queryByRole('option', { name: 'Store paths relatively' })).toBeNull());
  fireEvent.change(field(), { target: { value: 'checksums' } });
  await waitFor(() => expect(screen.getByRole('option', { name: 'Help: Receive a bundle' })).toBeTruthy());
  fireEvent.click(screen.getByRole('option', { name: 'Help: Receive a bundle' }));
  await waitFor(() => expect(page()).toBe('/help?topic=receive'));
  expect(field().value).toBe('');
});

test('the key / goes there, but not out of a field, and not where single keys are off', async () => {
  shown(null);
  const press = (target: Element): boolean => fireEvent.keyDown(target, { key: '/' });
  press(screen.getByLabelText('Other'));
  expect(document.activeElement).not.toBe(field());
  setSingleKeys(false);
  press(document.body);
  expect(document.activeElement).not.toBe(field());
  setSingleKeys(true);
  press(document.body);
  expect(document.activeElement).toBe(field());
  await waitFor(() => expect(field().getAttribute('aria-autocomplete')).toBe('list')); // the list came
});
