/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import type { PlaceHosts, PlaceView, StatusView } from '@rootmap/core/contract';
import { answerWith, show } from '../../test/render.js';
import { OwnHosts } from './own-hosts.js';

const before = globalThis.fetch;
afterEach(() => {
  cleanup();
  globalThis.fetch = before;
});

const place = (name: string, hosts: PlaceHosts): PlaceView => ({
  name,
  folder: `/srv/${name}`,
  driveNames: [],
  present: true,
  readOnly: false,
  absentSince: null,
  formerly: null,
  hosts,
});
const NONE: PlaceHosts = { configured: [], own: [] };
const status: StatusView = {
  version: '0',
  demo: false,
  standIns: false,
  placesEditable: true,
  hostsEditable: true,
  showsFiles: true,
  hosts: { configured: ['maps.office'], own: [] },
  notices: [],
};
const rows = (): string[] =>
  screen
    .getAllByRole('row')
    .slice(1)
    .map((r) => [...r.querySelectorAll('td')].map((c) => c.textContent).join(' | '));

test('each host is told with the place whose projects may ask it, and can be taken off where people allowed it', async () => {
  const asked = answerWith({ 'PUT /api/places/share/hosts': { body: [place('share', NONE)] } });
  show(<OwnHosts places={[place('share', { configured: [], own: ['gis.lan:8080'] })]} status={status} />);
  expect(rows()).toEqual(['maps.office | every place | by the configuration (ROOTMAP_HOSTS)', 'gis.lan:8080 | share | Ask it no more']);
  fireEvent.click(screen.getByRole('button', { name: 'Ask gis.lan:8080 no more in share' }));
  await waitFor(() => expect(asked[0]?.body).toEqual({ host: 'gis.lan:8080', allowed: false }));
});

test('a host is allowed in every place, or in one; an address is told to be none', async () => {
  const asked = answerWith({
    'PUT /api/places/share/hosts': { body: [place('share', NONE)] },
    'PUT /api/hosts': { body: { configured: [], own: ['a.lan'] } },
  });
  show(<OwnHosts places={[place('share', NONE)]} status={{ ...status, hosts: NONE }} />);
  const host = screen.getByLabelText('Host');
  const allow = screen.getByRole('button', { name: 'Allow it' });
  fireEvent.change(host, { target: { value: 'https://a.lan/wms' } });
  fireEvent.click(allow);
  expect(await screen.findByText('A host, or host:port; no address.')).not.toBeNull();
  expect(asked).toEqual([]);
  fireEvent.change(host, { target: { value: 'a.lan' } });
  fireEvent.click(allow);
  await waitFor(() => expect(asked.map((a) => [a.what, a.body])).toEqual([['PUT /api/hosts', { host: 'a.lan', allowed: true }]]));
  fireEvent.mouseDown(screen.getByRole('combobox', { name: 'For projects in' }));
  fireEvent.click(await screen.findByRole('option', { name: 'share' }));
  fireEvent.change(host, { target: { value: 'b.lan' } });
  fireEvent.click(allow);
  await waitFor(() => expect(asked.at(-1)).toEqual({ what: 'PUT /api/places/share/hosts', body: { host: 'b.lan', allowed: true } }));
});

test('where others reach the server its configuration says it', () => {
  show(<OwnHosts places={[]} status={{ ...status, hostsEditable: false }} />);
  expect(screen.queryByLabelText('Host')).toBeNull();
  expect(screen.getByText(/its configuration \(ROOTMAP_HOSTS\) says/)).not.toBeNull();
});
