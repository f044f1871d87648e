/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import { PathText } from './path-text.js';

afterEach(cleanup);
const shown = (path: string): (string | null)[] => {
  const { container } = render(<PathText path={path} isInRow />);
  const [head, name] = container.querySelectorAll('.mono > span');
  return [head!.textContent, name!.textContent];
};

test.each([
  ['D:/gis/beds.shp', ['D:/gis/', 'beds.shp']],
  ['//harbour/gis/base_library/coast.gpkg', ['\\\\harbour\\gis\\base_library\\', 'coast.gpkg']],
  ['beds.shp', ['', 'beds.shp']],
  ['D:/gis/derived/', ['D:/gis/', 'derived/']],
])('%s: its name is never cut, and a share is written as its place is called', (path, parts) => expect(shown(path)).toEqual(parts));

test('a long path is told whole: on hover in rows, with a stop for the Tab key elsewhere', () => {
  const path = '//harbour/gis/base_library/coastline.gpkg';
  const { rerender } = render(<PathText path={path} isInRow />);
  expect(screen.getByTitle('\\\\harbour\\gis\\base_library\\coastline.gpkg')).not.toBeNull();
  rerender(<PathText path={path} />);
  expect(document.querySelector('.mono')!.getAttribute('tabindex')).toBe('0');
});
