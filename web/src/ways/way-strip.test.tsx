/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import type { ProjectSummary } from '@rootmap/core/contract';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import { useLocation } from 'react-router';
import { answerWith, show } from '../../test/render.js';
import { keys } from '../api/queries.js';
import { WayStrip } from './way-strip.js';
import { WaysIn } from './ways-in.js';

afterEach(() => {
  cleanup();
  localStorage.clear();
});
const NO = { sound: 0, different: 0, incomplete: 0, adrift: 0, absent: 0, unreadable: 0, 'not-asked': 0 };
const project = (key: string, over: Partial<ProjectSummary> = {}): ProjectSummary =>
  ({ key, title: key, present: true, openedMs: 1, maps: 2, datasets: 3, totals: NO, ...over }) as ProjectSummary;
const broken = (adrift: number) => project('a', { totals: { ...NO, adrift } });

function Where() {
  const { pathname, search } = useLocation();
  return <div aria-label="Page">{pathname + search}</div>;
}
const page = (): string | null => screen.getByLabelText('Page').textContent;
function shown(projects: readonly ProjectSummary[], at = '/', opened: string[] = []) {
  answerWith({ 'GET /api/projects': { body: projects } });
  const view = show(
    <>
      <WayStrip />
      <WaysIn projects={projects} onOpenFolder={(way) => opened.push(way.id)} />
      <Where />
    </>,
    at,
  );
  view.client.setQueryData(keys.projects, projects);
  return view;
}
const press = (name: RegExp | string): void => void fireEvent.click(screen.getByRole('button', { name }));
const step = (): string => screen.getByRole('status').textContent ?? '';

test('a way goes from page to page, back, and ends; nothing of it stays', async () => {
  shown([broken(4), project('b', { openedMs: 9 })]);
  expect(screen.queryByRole('region', { name: /step by step/ })).toBeNull();
  press(/^Mend what broke/);
  await waitFor(() => expect(page()).toBe('/p/a/overview')); // where most is broken
  expect(screen.getByText('Mend what broke · 1 of 4')).toBeTruthy();
  press('Next');
  await waitFor(() => expect(page()).toBe('/p/a/mend'));
  expect(step()).toMatch('what explains it');
  press('Back');
  await waitFor(() => expect(page()).toBe('/p/a/overview'));
  for (const last of ['/p/a/mend', '/p/a/overview', '/journal']) {
    press('Next');
    await waitFor(() => expect(page()).toBe(last));
  }
  press('That was it');
  await waitFor(() => expect(screen.queryByRole('region', { name: /step by step/ })).toBeNull());
  expect(localStorage.getItem('rootmap.way')).toBeNull();
});

test('when what a step asks for is done, the way goes on by itself', async () => {
  const { client } = shown([broken(4)]);
  press(/^Mend what broke/);
  press('Next');
  await waitFor(() => expect(page()).toBe('/p/a/mend'));
  client.setQueryData(keys.projects, [broken(4)]);
  expect(step()).toMatch('what explains it');
  client.setQueryData(keys.projects, [broken(1)]);
  await waitFor(() => expect(step()).toMatch('were read back'));
  await waitFor(() => expect(page()).toBe('/p/a/overview'));
});

test('left, it is offered again where it was left; on another page it leads back', async () => {
  shown([broken(4)]);
  press(/^Mend what broke/);
  press('Next');
  await waitFor(() => expect(page()).toBe('/p/a/mend'));
  press('Leave it');
  await waitFor(() => expect(screen.getByRole('button', { name: /^Mend what broke/ }).textContent).toContain('go on'));
  press(/^Send it whole/); // another one instead
  await waitFor(() => expect(page()).toBe('/p/a/send'));
  press('Leave it');
  await waitFor(() => expect(screen.getByRole('button', { name: /^Send it whole/ }).textContent).toContain('go on'));
  cleanup();
  shown([broken(4)], '/places');
  press(/^Send it whole/);
  await waitFor(() => expect(page()).toBe('/p/a/send'));
  cleanup();
  shown([broken(4)], '/places');
  press('Go there');
  await waitFor(() => expect(page()).toBe('/p/a/send'));
});

test('without a project a folder is opened first; making one needs none', async () => {
  const opened: string[] = [];
  shown([], '/', opened);
  press(/^Mend what broke/);
  press(/^Send it whole/);
  expect(opened).toEqual(['mend', 'send']);
  press(/^Make a project/);
  await waitFor(() => expect(page()).toBe('/new'));
});

test('what stands in the browser in another form is no way', () => {
  localStorage.setItem('rootmap.way', JSON.stringify([{ way: 'fly', step: 0, begun: {} }, 3, null]));
  shown([broken(1)]);
  expect(screen.queryByRole('region', { name: /step by step/ })).toBeNull();
});
