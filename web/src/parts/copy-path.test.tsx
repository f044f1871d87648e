/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import type { PlaceView } from '@rootmap/core/contract';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { told } from '../../test/notistack.js';
import { Menu } from '@mui/material';
import { CopyPath, pathForms, usePathItems } from './copy-path.js';
import { pathOf } from './path-menu.js';

afterEach(cleanup);
const forms = (shown: string, relative: string | null = 'a/b c.shp'): string[] => pathForms({ shown, relative }).map((f) => f.text);

test('a path as its system writes it, from the root, and as RFC 8089 has it', () => {
  expect(forms('D:/gis/a/b c.shp')).toEqual(['D:\\gis\\a\\b c.shp', 'a/b c.shp', 'file:///D:/gis/a/b%20c.shp']);
  expect(forms('//harbour/gis/a/ü.shp')).toEqual(['\\\\harbour\\gis\\a\\ü.shp', 'a/b c.shp', 'file://harbour/gis/a/%C3%BC.shp']);
  expect(forms('/srv/gis/a/b c.shp', null)).toEqual(['/srv/gis/a/b c.shp', 'file:///srv/gis/a/b%20c.shp']);
});

test('where a path of this server stands: in the deepest place that holds it', () => {
  const place = (name: string, folder: string, ...driveNames: string[]) =>
    ({ name, folder, driveNames, present: true, readOnly: false, absentSince: null, formerly: null, hosts: [] }) as unknown as PlaceView;
  const places = [place('desk', '/srv/d', 'D:'), place('gis', '/srv/d/gis'), place('other', '/srv/desk')];
  expect(pathOf('/srv/d/gis/p/a.shp', '/srv/d/gis/p', places)).toEqual({
    shown: '/srv/d/gis/p/a.shp',
    relative: 'a.shp',
    at: { place: 'gis', path: 'p/a.shp' },
  });
  expect(pathOf('/srv/d/x.shp', '/srv/d/gis/p', places)).toEqual({
    shown: 'D:/x.shp',
    relative: null,
    at: { place: 'desk', path: 'x.shp' },
  });
  expect(pathOf('/srv/dark/x.shp', '/srv/d', places)).toBeNull();
});

test('what was copied is told; where the browser does not let the page, that is', async () => {
  const copied: string[] = [];
  const clipboard = (writeText: (text: string) => Promise<void>): void =>
    void Object.defineProperty(navigator, 'clipboard', { value: { writeText }, configurable: true });
  clipboard((text) => Promise.resolve(void copied.push(text)));
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { enabled: false } } })}>
      <CopyPath shown="D:/gis/a.shp" relative="a.shp" at={{ place: 'desk', path: 'a.shp' }} />
    </QueryClientProvider>,
  );
  const choose = (name: RegExp): void => {
    fireEvent.click(screen.getByRole('button', { name: 'Copy its path' }));
    fireEvent.click(screen.getByRole('menuitem', { name }));
  };
  choose(/^From the root/);
  await waitFor(() => expect(copied).toEqual(['a.shp']));
  expect(told.at(-1)).toBe('Copied: a.shp');
  clipboard(() => Promise.reject(new Error('no')));
  choose(/^As a file: address/);
  await waitFor(() => expect(told.at(-1)).toMatch('does not let the page copy'));
});

test('in a menu that has other items: the forms of the path, and its file manager only where the server has one', async () => {
  const copied: string[] = [];
  Object.defineProperty(navigator, 'clipboard', { value: { writeText: async (t: string) => void copied.push(t) }, configurable: true });
  const client = new QueryClient({ defaultOptions: { queries: { enabled: false } } });
  client.setQueryData(['status'], { showsFiles: true });
  let done = 0;
  function More() {
    const items = usePathItems({ shown: '//harbour/gis/a.shp', relative: null, at: { place: 'share', path: 'a.shp' } }, () => done++);
    return <>{usePathItems(null, () => undefined).length === 0 && <Menu open anchorEl={document.body}>{items}</Menu>}</>; // prettier-ignore
  }
  render(
    <QueryClientProvider client={client}>
      <More />
    </QueryClientProvider>,
  );
  expect(screen.getAllByRole('menuitem').map((i) => i.textContent)).toEqual([
    'Copy its path as this system writes it\\\\harbour\\gis\\a.shp',
    'Copy its path as a file: addressfile://harbour/gis/a.shp',
    'Show in the file manager',
  ]);
  fireEvent.click(screen.getByRole('menuitem', { name: /^Copy its path as this system/ }));
  await waitFor(() => expect([copied, done]).toEqual([['\\\\harbour\\gis\\a.shp'], 1]));
});
