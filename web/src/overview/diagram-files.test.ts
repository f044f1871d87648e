/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { adrift, layer, map, project } from '../../test/diagram-project.js';
import { diagramCsv } from './diagram-csv';
import { diagramSvg } from './diagram-svg';
import { findLayers } from './find-layers';
import { layoutDiagram } from './layout-diagram';

describe('the diagram as a file, and what is found in it', () => {
  const p = project([map('a & b', [layer('a & b', 1), layer('a & b', 2, adrift)])]);
  test('an SVG that an XML reader takes, with every map, layer and ghost in it', () => {
    const text = diagramSvg(p, layoutDiagram(p, new Set()), () => '#123456');
    const tree = new DOMParser().parseFromString(text, 'image/svg+xml');
    expect(tree.querySelector('parsererror')).toBeNull();
    const words = [...tree.querySelectorAll('text')].map((t) => t.textContent);
    for (const word of ['a & b', 'Layer 1', 'Layer 2', 'd1.shp', 'old', 'nothing there now']) expect(words).toContain(word);
    expect(tree.querySelectorAll('path')).toHaveLength(2);
  });
  test('a table with a row for each layer', () => {
    const lines = diagramCsv(p).trim().split('\r\n');
    expect(lines).toHaveLength(3);
    expect(lines[2]).toMatch(/^a & b,a & b,Layer 2,adrift,relative,/);
  });
  test('layers are found by words of their title, map, or path, in any order', () => {
    expect(findLayers(p, 'b layer').map((l) => l.title)).toEqual(['Layer 1', 'Layer 2']);
    expect(findLayers(p, 'd2.shp adrift').map((l) => l.title)).toEqual(['Layer 2']);
    expect(findLayers(p, '  ')).toEqual([]);
    expect(findLayers(p, 'nowhere')).toEqual([]);
  });
});
