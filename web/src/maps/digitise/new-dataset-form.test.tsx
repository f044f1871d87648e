/** @jest-environment jsdom */
import { afterEach, expect, jest, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import type { NewDataset, ProjectView, SourcesView } from '@rootmap/core/contract';
import { answerWith, show } from '../../../test/render.js';
import { NewDatasetForm } from './new-dataset-form.js';

afterEach(cleanup);

const project = { key: 'k', place: 'desk', path: 'study', root: '/desk/study' } as ProjectView;
const geodatabases = (working: string | null) => ({
  'GET /api/projects/k/geodatabases': { body: { containers: [], maps: [], working, isWorkingThere: working !== null } },
});
const button = (): HTMLButtonElement => screen.getByRole('button', { name: 'Start drawing' });

test('nothing is begun before it is known where it will stand; then it stands there', async () => {
  let answer: (sources: Partial<SourcesView>) => void = () => undefined;
  answerWith({
    ...geodatabases(null),
    'GET /api/projects/k/sources': async () => ({ body: await new Promise((resolve) => (answer = resolve)) }),
  });
  const onStart = jest.fn<(create: NewDataset) => void>();
  show(<NewDatasetForm project={project} map="maps/m.owc.json" crs="EPSG:32624" onStart={onStart} onClose={() => undefined} />);
  fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'Cable route Süd' } });
  expect(screen.getByText('Looking where it will stand…')).toBeTruthy();
  expect(button().disabled).toBe(true);
  await waitFor(() => answer({ workFolder: 'derived' }));
  await waitFor(() => expect(button().disabled).toBe(false));
  expect(screen.getByText('derived/Cable_route_Sued.gpkg')).toBeTruthy();
  fireEvent.click(button());
  expect(onStart).toHaveBeenCalledWith({
    format: 'geopackage',
    at: { place: 'desk', path: 'study/derived/Cable_route_Sued.gpkg' },
    table: 'Cable_route_Sued',
    kind: 'LineString',
    fields: [{ name: 'depth', type: 'real' }],
  });
});

test('a table is made in the geodatabase that the map works in; a file stands by itself', async () => {
  answerWith({ ...geodatabases('geodatabases/work.gpkg'), 'GET /api/projects/k/sources': { body: { workFolder: 'derived' } } });
  const onStart = jest.fn<(create: NewDataset) => void>();
  show(<NewDatasetForm project={project} map="maps/m.owc.json" crs="EPSG:32624" onStart={onStart} onClose={() => undefined} />);
  fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'route' } });
  await waitFor(() => expect(screen.getByText('Table route in geodatabases/work.gpkg')).toBeTruthy());
  fireEvent.click(button());
  expect(onStart).toHaveBeenCalledWith(
    expect.objectContaining({ at: { place: 'desk', path: 'study/geodatabases/work.gpkg' }, table: 'route' }),
  );
});

test('two fields of one name, in any letters, are none', async () => {
  answerWith({ ...geodatabases(null), 'GET /api/projects/k/sources': { body: { workFolder: 'derived' } } });
  show(<NewDatasetForm project={project} map="maps/m.owc.json" crs="EPSG:32624" onStart={() => undefined} onClose={() => undefined} />);
  fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'x' } });
  await waitFor(() => expect(button().disabled).toBe(false));
  fireEvent.click(screen.getByRole('button', { name: 'Add a field' }));
  expect(button().disabled).toBe(true);
  fireEvent.change(screen.getByLabelText('Field 2'), { target: { value: 'DEPTH' } });
  expect(button().disabled).toBe(true);
  fireEvent.change(screen.getByLabelText('Field 2'), { target: { value: 'note' } });
  expect(button().disabled).toBe(false);
});
