import { GROUND, type LabelMark, type PageMark, type PictureMark, type ShapesMark } from './page-model.js';

const FONT = 'DejaVu Sans, Verdana, sans-serif';
const INK = '#1c2a27';

const escaped = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
const mm = (n: number): string => String(Math.round(n * 1000) / 1000);

/**
 * A page as SVG 1.1 (W3C), a unit being a millimetre: lines and text as such, what is a picture as a picture in it.
 * @param map the picture below, `data:` address; null: there is none
 * @param isOnPaper white, and pale where the map has nothing; otherwise one sees through
 */
export function svgPage(
  size: { readonly width: number; readonly height: number },
  marks: readonly PageMark[],
  map: string | null,
  title: string,
  isOnPaper = true,
): string {
  const repeated = repeatedPictures(marks);
  const body = marks.map((m) => (m.kind === 'map' && !isOnPaper ? '' : markText(m, map, repeated))).filter((t) => t !== '');
  const clip = marks.find((m) => m.kind === 'map');
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" version="1.1" width="${mm(size.width)}mm" height="${mm(size.height)}mm" viewBox="0 0 ${mm(size.width)} ${mm(size.height)}">`,
    `<title>${escaped(title)}</title>`,
    ...(clip
      ? [
          `<defs><clipPath id="map"><rect x="${mm(clip.x)}" y="${mm(clip.y)}" width="${mm(clip.w)}" height="${mm(clip.h)}"/></clipPath></defs>`,
        ]
      : []),
    ...[...repeated].map(
      ([data, id]) => `<defs><image id="${id}" width="1" height="1" preserveAspectRatio="none" xlink:href="${data}"/></defs>`,
    ),
    ...(isOnPaper ? [`<rect width="100%" height="100%" fill="#ffffff"/>`] : []),
    ...body,
    '</svg>',
    '',
  ].join('\n');
}

/** Pictures that stand in more than one place, with the name under which they stand in the file once. */
function repeatedPictures(marks: readonly PageMark[]): ReadonlyMap<string, string> {
  const seen = new Set<string>();
  const repeated = new Map<string, string>();
  for (const m of marks) {
    if (m.kind !== 'picture') continue;
    if (seen.has(m.data) && !repeated.has(m.data)) repeated.set(m.data, `picture${repeated.size + 1}`);
    seen.add(m.data);
  }
  return repeated;
}

function markText(m: PageMark, map: string | null, repeated: ReadonlyMap<string, string>): string {
  switch (m.kind) {
    case 'map': {
      const at = `x="${mm(m.x)}" y="${mm(m.y)}" width="${mm(m.w)}" height="${mm(m.h)}"`;
      return map === null ? `<rect ${at} fill="${GROUND}"/>` : `<image ${at} preserveAspectRatio="none" xlink:href="${map}"/>`;
    }
    case 'rect':
      return `<rect x="${mm(m.x)}" y="${mm(m.y)}" width="${mm(m.w)}" height="${mm(m.h)}"${paint(m.fill, m.opacity, m.stroke, m.opacity, m.width)}/>`;
    case 'path':
      return `<path d="${m.d}"${paint(m.fill, m.opacity, m.stroke, m.opacity, m.width)}/>`;
    case 'picture':
      return pictureText(m, repeated.get(m.data));
    case 'shapes':
      return shapesText(m);
    case 'label':
      return labelText(m);
    case 'text': {
      const anchor = { left: 'start', center: 'middle', right: 'end' }[m.align];
      return `<text x="${mm(m.x)}" y="${mm(m.y)}" font-family="${FONT}" font-size="${mm(m.size)}"${m.isBold ? ' font-weight="700"' : ''} text-anchor="${anchor}" fill="${INK}">${escaped(m.text)}</text>`;
    }
  }
}

function pictureText({ x, y, w, h, clip, data, opacity }: PictureMark, id: string | undefined): string {
  const cut = clip === null ? '' : ' clip-path="url(#map)"';
  const seen = opacity < 1 ? ` opacity="${mm(opacity)}"` : '';
  if (id !== undefined)
    return `<g${cut}${seen}><use xlink:href="#${id}" transform="translate(${mm(x)} ${mm(y)}) scale(${mm(w)} ${mm(h)})"/></g>`;
  return `<image${cut} x="${mm(x)}" y="${mm(y)}" width="${mm(w)}" height="${mm(h)}" preserveAspectRatio="none"${seen} xlink:href="${data}"/>`;
}

function paint(fill: string | null, fillOpacity: number, stroke: string | null, strokeOpacity: number, width: number): string {
  const filled = fill === null ? ' fill="none"' : ` fill="${fill}"${fillOpacity < 1 ? ` fill-opacity="${mm(fillOpacity)}"` : ''}`;
  return stroke === null
    ? filled
    : `${filled} stroke="${stroke}" stroke-width="${mm(width)}"${strokeOpacity < 1 ? ` stroke-opacity="${mm(strokeOpacity)}"` : ''}`;
}

function shapesText(m: ShapesMark): string {
  const d = m.path ?? m.runs.map((run) => pathOf(run, m.isArea)).join('');
  const dash = m.dash ? ` stroke-dasharray="${m.dash.map(mm).join(' ')}"` : '';
  return `<path clip-path="url(#map)" d="${d}" fill-rule="evenodd" stroke-linejoin="round" stroke-linecap="round"${paint(m.fill, m.fillOpacity, m.stroke, m.strokeOpacity, m.width)}${dash}/>`;
}

function pathOf(run: readonly number[], isClosed: boolean): string {
  let d = '';
  for (let i = 0; i + 1 < run.length; i += 2) d += `${i === 0 ? 'M' : 'L'}${mm(run[i]!)} ${mm(run[i + 1]!)}`;
  return isClosed ? `${d}Z` : d;
}

function labelText(m: LabelMark): string {
  const turn = m.angle === 0 ? '' : ` transform="rotate(${mm(-m.angle)} ${mm(m.x)} ${mm(m.y)})"`;
  const common = `x="${mm(m.x)}" y="${mm(m.y)}" font-family="${FONT}" font-size="${mm(m.size)}" text-anchor="${m.align === 'left' ? 'start' : 'middle'}"`;
  const text = escaped(m.text);
  // The halo is text of its own below, since not every reader knows the order of painting.
  const halo = m.halo
    ? `<text aria-hidden="true" ${common} fill="none" stroke="${m.halo.colour}" stroke-width="${mm(m.halo.width)}" stroke-linejoin="round">${text}</text>`
    : '';
  return `<g clip-path="url(#map)"><g${turn}>${halo}<text ${common} fill="${m.colour}">${text}</text></g></g>`;
}
