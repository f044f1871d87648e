import { licenceNamed } from '../origin/licences.js';
import type { Origin } from '../origin/origin.js';

/** One dataset as the read-me tells it. */
interface ReadMeData {
  /** From the payload's top. */
  readonly path: string;
  readonly table: string | null;
  readonly origin: Origin | null;
  readonly isUsed: boolean;
  /** Where it came along from; null: it is of the project. */
  readonly cameFrom: string | null;
}

/** A picture of a map, as it was drawn while its servers answered. */
interface ReadMePicture {
  readonly path: string;
  /** `2026-03-14`. */
  readonly day: string;
  /** Layers that are not on it. */
  readonly without: readonly string[];
}

/** What whoever opens a bundle has to know, of that bundle alone. */
export interface ReadMe {
  readonly title: string;
  readonly summary: string;
  readonly method: string;
  readonly crs: string | null;
  readonly maps: readonly {
    readonly path: string;
    readonly title: string;
    readonly layers: readonly string[];
    readonly picture: ReadMePicture | null;
  }[];
  readonly folders: readonly { readonly path: string; readonly files: number; readonly bytes: number }[];
  readonly data: readonly ReadMeData[];
  readonly services: readonly { readonly title: string; readonly address: string }[];
  /** What stays out since it can be fetched again. */
  readonly toFetch: readonly { readonly path: string; readonly address: string; readonly bytes: number; readonly sha256: string }[];
  readonly notCarried: readonly { readonly path: string; readonly why: string }[];
}

interface Section {
  readonly title: string;
  readonly text: readonly string[];
  readonly rows: readonly { readonly name: string; readonly lines: readonly string[] }[];
}

const size = (bytes: number): string =>
  bytes < 1000
    ? `${bytes} bytes`
    : bytes < 1e6
      ? `${(bytes / 1e3).toFixed(1)} kB`
      : bytes < 1e9
        ? `${(bytes / 1e6).toFixed(1)} MB`
        : `${(bytes / 1e9).toFixed(2)} GB`;
const count = (n: number, one: string): string => `${n} ${one}${n === 1 ? '' : 's'}`;

const section = (title: string, text: readonly string[], rows: Section['rows'] = []): Section => ({ title, text, rows });

const OPENING = [
  'Unpack the whole bundle first, with its folders. The project is the folder "data": keep its folders together and the maps find their data, wherever it stands.',
  'The maps (*.owc.json) are OGC OWS Context documents; the data is in open formats, and paths in the maps are relative.',
  'Whether everything arrived: the checksums of all files are in manifest-sha256.txt and manifest-sha512.txt (BagIt, RFC 8493), in the form that sha256sum -c and sha512sum -c read.',
];

function sectionsOf(r: ReadMe): Section[] {
  const all = [
    section('How to open it', OPENING),
    section('Coordinate reference system', [r.crs ?? 'The project does not name one; each dataset says its own.']),
    section(
      'Contents',
      [],
      r.folders.map((f) => ({ name: f.path === '' ? '(top)' : `${f.path}/`, lines: [`${count(f.files, 'file')}, ${size(f.bytes)}`] })),
    ),
    section(
      'Maps',
      r.maps.length === 0 ? ['None.'] : [],
      r.maps.map((m) => ({ name: m.title, lines: [m.path, `Layers: ${m.layers.join(', ') || 'none'}`, ...pictureLines(m.picture)] })),
    ),
    section('Method and scales', r.method === '' ? ['Not told.'] : r.method.split(/\n+/)),
    section('Attributions and licences', r.data.length === 0 ? ['There is no data in it.'] : [], r.data.map(attribution)),
  ];
  if (r.services.length > 0)
    all.push(
      section(
        'Services, not carried',
        ['These layers draw on servers of others, and need a connection.'],
        r.services.map((s) => ({ name: s.title, lines: [s.address] })),
      ),
    );
  if (r.toFetch.length > 0)
    all.push(
      section(
        'To be fetched again',
        ['Left out, since its publisher offers it. What was here had these sizes and checksums (SHA-256).'],
        r.toFetch.map((f) => ({ name: f.path, lines: [f.address, size(f.bytes), f.sha256] })),
      ),
    );
  if (r.notCarried.length > 0)
    all.push(
      section(
        'Does not travel',
        [],
        r.notCarried.map((n) => ({ name: n.path, lines: [n.why] })),
      ),
    );
  return all;
}

const pictureLines = (picture: ReadMePicture | null): string[] =>
  picture
    ? [
        `As it was drawn on ${picture.day}, its servers included: ${picture.path}`,
        ...(picture.without.length > 0 ? [`Not, or not wholly, on that picture: ${picture.without.join(', ')}`] : []),
      ]
    : [];

function attribution({ path, table, origin, isUsed, cameFrom }: ReadMeData): Section['rows'][number] {
  const name = table === null ? path : `${path}, table ${table}`;
  const along = cameFrom === null ? [] : [`Came along from ${cameFrom}`];
  if (!origin) return { name, lines: ['Where it came from is not recorded.', ...along, ...(isUsed ? [] : ['No map uses it.'])] };
  const licence = licenceNamed(origin.licence);
  const told = [
    origin.attribution || (origin.publisher && `© ${origin.publisher}`),
    licence ? `Licence: ${licence.title} (${licence.path})` : origin.licence ? `Licence: ${origin.licence}` : 'No licence is recorded.',
    licence?.asksForAttribution === true && 'Whoever uses it has to name where it came from.',
    origin.publisher && `Publisher: ${origin.publisher}`,
    (origin.page || origin.address) && `From: ${origin.page || origin.address}`,
    origin.fetched && `Fetched: ${origin.fetched}`,
    origin.statedScale && `Digitised at, or made for: ${origin.statedScale}`,
    origin.disclaimer && `Disclaimer: ${origin.disclaimer}`,
    origin.notes,
    ...along,
    !isUsed && 'No map uses it.',
  ];
  return { name, lines: told.filter((line): line is string => typeof line === 'string' && line !== '') };
}

/** The read-me as plain text, lines ended by LF. */
export function readMeText(r: ReadMe): string {
  const under = (title: string, mark: string): string[] => [title, mark.repeat([...title].length), ''];
  const lines = [...under(r.title, '='), ...(r.summary === '' ? [] : [r.summary, ''])];
  for (const s of sectionsOf(r)) {
    lines.push(...under(s.title, '-'), ...s.text);
    if (s.text.length > 0) lines.push('');
    for (const row of s.rows) lines.push(row.name, ...row.lines.flatMap((l) => l.split('\n')).map((l) => `    ${l}`), '');
  }
  return `${lines.join('\n').trimEnd()}\n`;
}

const escape = (text: string): string => text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!);

/** The read-me as one HTML page: no script, nothing from outside, links only to what it names. */
export function readMeHtml(r: ReadMe): string {
  const line = (text: string): string =>
    escape(text)
      .replace(/https?:\/\/[^\s()<>"]+/g, (url) => `<a href="${url}">${url}</a>`)
      .replaceAll('\n', '<br>');
  const parts = sectionsOf(r).map(
    (s) =>
      `<section><h2>${escape(s.title)}</h2>${s.text.map((t) => `<p>${line(t)}</p>`).join('')}${
        s.rows.length === 0
          ? ''
          : `<dl>${s.rows.map((row) => `<dt>${escape(row.name)}</dt>${row.lines.map((l) => `<dd>${line(l)}</dd>`).join('')}`).join('')}</dl>`
      }</section>`,
  );
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escape(r.title)}</title>
<style>
body{font:1rem/1.5 system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem;color:#16302c;background:#fff}
h2{margin-top:2rem;border-bottom:1px solid #b9c7c1}
dt{font-weight:600;margin-top:.6rem}
dd{margin:0 0 0 1.5rem;overflow-wrap:anywhere}
</style>
</head>
<body>
<h1>${escape(r.title)}</h1>
${r.summary === '' ? '' : `<p>${line(r.summary)}</p>\n`}${parts.join('\n')}
</body>
</html>
`;
}
