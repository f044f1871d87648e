import type { ProjectView } from '@rootmap/core/contract';
import type { LayerState } from '@rootmap/core';
import { STATE_COLOUR, STATE_WORD } from '../parts/tether.js';
import { END_X, GHOST_WIDTH, GHOST_X, LEFT, RIGHT, RIGHT_X, WIDTH } from './diagram-geometry.js';
import type { Diagram, Thread } from './layout-diagram.js';
import { endOf, threadPath } from './thread-path.js';

/** Colours by the names that the page has for them. */
export type Inks = (name: string) => string;
export const inksOf = (element: Element): Inks => {
  const style = getComputedStyle(element);
  return (name) => style.getPropertyValue(name).trim() || '#444444';
};

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
const cut = (text: string, most: number): string => (text.length > most ? `${text.slice(0, most - 1)}…` : text);
const MARGIN = 16;
const HEAD = 44;
const FONT = 'Lato, "DejaVu Sans", Verdana, sans-serif';

/** The root diagram as a picture by itself, SVG 1.1: all of it, as it is folded now. */
export function diagramSvg(project: ProjectView, d: Diagram, ink: Inks): string {
  const colour = (state: LayerState): string => ink(/var\((.+)\)/.exec(STATE_COLOUR[state])![1]!);
  const text = (x: number, y: number, words: string, more = ''): string => `<text x="${x}" y="${y}" fill="${ink('--ink')}"${more}>${escaped(words)}</text>`; // prettier-ignore
  const box = (x: number, y: number, w: number, h: number, fill: string, stroke: string, dash = ''): string =>
    `<rect x="${x}" y="${y}" width="${w}" height="${h}" rx="6" fill="${fill}" stroke="${stroke}"${dash && ` stroke-dasharray="${dash}"`}/>`;
  const soft = ` style="fill:${ink('--soft')}"`;
  const [width, height] = [WIDTH + 2 * MARGIN, d.height + HEAD + 2 * MARGIN];
  const hasGhosts = d.ghosts.length > 0;
  const lineOf = (t: Thread): string => {
    const dash = t.bond.reach === 'service' ? ' stroke-dasharray="1 4"' : '';
    const weight = t.bond.stored === 'absolute' && t.bond.reach !== 'linked' ? 3.2 : 1.5;
    const path = threadPath(t, hasGhosts);
    const line = (stroke: string, w: number): string => `<path d="${path}" fill="none" stroke="${stroke}" stroke-width="${w}"${dash}/>`;
    return t.bond.reach === 'linked' ? line(colour(t.bond.state), 4.2) + line(ink('--paper'), 1.8) : line(colour(t.bond.state), weight);
  };
  const endMark = (t: Thread): string => {
    const isFull = t.bond.state === 'sound' || t.bond.state === 'different';
    return `<circle cx="${LEFT}" cy="${t.fromY}" r="2.6" fill="${colour(t.bond.state)}"/><circle cx="${endOf(t)}" cy="${t.toY}" r="5" fill="${isFull ? colour(t.bond.state) : ink('--sheet')}" stroke="${colour(t.bond.state)}" stroke-width="1.6"><title>${STATE_WORD[t.bond.state]}</title></circle>`;
  };
  const parts = [
    ...d.boxes.map((b) => box(RIGHT_X + 1, b.y, RIGHT - 2, b.height, b.kind === 'root' ? ink('--sheet') : 'none', b.kind === 'root' ? ink('--ink') : ink('--stone'), b.kind === 'root' ? '' : '6 4')), // prettier-ignore
    ...d.threads.map(lineOf),
    ...d.maps.flatMap((m) => [
      box(0, m.y, LEFT, m.height, ink('--sheet'), ink('--rule')),
      text(12, m.y + 21, cut(m.map.title, 32), ' font-weight="700"'),
      ...m.rows.map((r) => text(12, r.y + 4, cut(r.label, 38))),
    ]),
    ...d.ghosts.flatMap((g) => [
      box(GHOST_X, g.y, GHOST_WIDTH, g.height, ink('--plum-wash'), ink('--plum'), '4 3'),
      text(GHOST_X + 12, g.y + g.height / 2 - 3, cut(g.label, 22), ` style="fill:${ink('--plum')}" font-size="11"`),
      text(GHOST_X + 12, g.y + g.height / 2 + 12, 'nothing there now', ` style="fill:${ink('--plum')}" font-size="11"`),
    ]),
    ...d.boxes.flatMap((b) => [
      text(RIGHT_X + 14, b.kind === 'root' ? b.y - 2 : b.y + 19, cut(b.title, 40), ' font-weight="700"'),
      ...b.rows.map((r) =>
        text(r.kind === 'dataset' ? END_X + 14 : END_X + 12, r.y + 4, cut(r.label, 40), r.kind === 'dataset' ? '' : soft),
      ),
    ]),
    ...d.threads.map(endMark),
  ];
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" font-family="${escaped(FONT)}" font-size="13">`,
    `<title>${escaped(project.title)}</title>`,
    `<rect width="100%" height="100%" fill="${ink('--paper')}"/>`,
    `<g transform="translate(${MARGIN} ${MARGIN})">${text(0, 18, project.title, ' font-size="18" font-weight="700"')}${text(0, 36, project.shownRoot, soft)}</g>`,
    `<g transform="translate(${MARGIN} ${MARGIN + HEAD})">`,
    ...parts,
    '</g></svg>',
    '',
  ].join('\n');
}
