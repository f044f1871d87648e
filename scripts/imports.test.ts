import { describe, expect, test } from '@jest/globals';
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';

/** Which package may use which: core ← engine ← server, cli; core ← web; nobody imports demo, e2e or bench. */
const MAY_USE: Readonly<Record<string, readonly string[]>> = {
  core: [],
  engine: ['core'],
  server: ['core', 'engine'],
  cli: ['core', 'engine'],
  web: ['core'],
  demo: ['core', 'engine'],
};
/** Inside the core, a folder may use those to its left; formats stand side by side. */
const CORE_ORDER = [
  'problem',
  'address',
  'json',
  'bytes',
  'dataset',
  'geometry',
  'feature',
  'filter',
  'crs',
  'raster',
  'unpack',
  'xml',
  'format',
  'read',
  'naming',
  'origin',
  'note',
  'intake',
  'service',
  'project',
  'look',
  'sld',
  'map',
  'page',
  'move',
  'mend',
  'rehearsal',
  'quality',
  'bundle',
  'contract',
];
/** Inside the engine, rings from the ground up; a folder may use those before it, types included, so that there is no circle. */
const ENGINE_RINGS: Readonly<Record<string, readonly string[]>> = {
  ground: ['threads', 'disk', 'places', 'crs', 'zip', 'archive', 'geopackage', 'pixels', 'geopackage-write', 'wire'],
  changes: ['changes', 'store'],
  knowing: ['survey', 'fingerprint', 'project', 'rows', 'preview', 'notes'],
  doing: [
    'move',
    'names',
    'links',
    'folders',
    'maps',
    'intake',
    'geodatabase',
    'export',
    'copies',
    'printing',
    'quality',
    'digitise',
    'rehearsal',
    'mend',
    'edit',
    'bundle',
    'online',
  ],
  services: ['repositories', 'tasks', 'pool', 'services', 'workbench'],
};
const ENGINE_ORDER = Object.values(ENGINE_RINGS).flat();
/** What stands beside the folders: the package's face, and where its data folder is. */
const BESIDE = ['index', 'data-folder'];

/** What the platform-free core may name of the outside. */
const CORE_PACKAGES = [
  'joi',
  'any-ascii',
  'fflate',
  'saxes',
  'flatbuffers',
  'flatgeobuf/lib/mjs/flat-geobuf/header.js',
  'flatgeobuf/lib/mjs/flat-geobuf/feature.js',
  'flatgeobuf/lib/mjs/flat-geobuf/geometry.js',
  'papaparse',
  'chevrotain',
  'simple-statistics',
  'geostyler-sld-parser',
  'chardet',
  'htmlparser2',
  'geographiclib-geodesic',
];

interface Import {
  readonly file: string;
  readonly to: string;
  readonly typeOnly: boolean;
}

function importsOf(packageName: string): Import[] {
  const root = join(packageName, 'src');
  return readdirSync(root, { recursive: true })
    .map((f) => join(root, String(f)))
    .filter((f) => /\.tsx?$/.test(f) && !/\.test\.tsx?$/.test(f))
    .flatMap((file) =>
      [
        ...readFileSync(file, 'utf8').matchAll(
          /^\s*(?:import|export)\s+(type\s)?[^;'"]*?from\s+['"]([^'"]+)['"]|import\(\s*['"]([^'"]+)['"]/gm,
        ),
      ].map((m) => ({
        file,
        to: (m[2] ?? m[3])!,
        typeOnly: m[1] !== undefined,
      })),
    );
}

/** The rules an import breaks, in words. */
export function brokenRules(packageName: string, { file, to, typeOnly }: Import): string[] {
  const broken: string[] = [];
  const other = /^@rootmap\/([^/]+)/.exec(to)?.[1];
  if (other && !MAY_USE[packageName]!.includes(other)) broken.push(`${file}: ${packageName} may not use ${other}`);
  if (to.startsWith('.')) {
    const target = normalize(join(dirname(file), to));
    if (!target.startsWith(`${packageName}/src`)) broken.push(`${file}: reaches out of its package (${to})`);
    else if (packageName === 'core') broken.push(...coreOrder(file, target, typeOnly));
    else if (packageName === 'engine') broken.push(...engineOrder(file, target));
  } else if (packageName === 'core' && !other && !CORE_PACKAGES.includes(to)) broken.push(`${file}: the core may not use ${to}`);
  if (packageName === 'cli' && /typeorm|@nestjs|\/store$|\/workbench/.test(to) && !/import\(/.test(lineOf(file, to)))
    broken.push(`${file}: reading commands load neither TypeORM nor Nest (${to})`);
  return broken;
}

const lineOf = (file: string, to: string): string =>
  readFileSync(file, 'utf8')
    .split('\n')
    .find((l) => l.includes(`'${to}'`)) ?? '';

const folder = (path: string): string => path.split('/')[2]!.replace(/\.[jt]s$/, '');

function engineOrder(file: string, target: string): string[] {
  const [from, to] = [folder(file), folder(target)];
  if (BESIDE.includes(from) || BESIDE.includes(to)) return [];
  const ringOf = (name: string): string => Object.keys(ENGINE_RINGS).find((r) => ENGINE_RINGS[r]!.includes(name)) ?? 'no ring';
  const unknown = [from, to].filter((name) => !ENGINE_ORDER.includes(name));
  if (unknown.length > 0) return unknown.map((name) => `${file}: ${name} has no place in the order of the engine (ENGINE_RINGS)`);
  return ENGINE_ORDER.indexOf(to) > ENGINE_ORDER.indexOf(from)
    ? [`${file}: ${from} (${ringOf(from)}) may not use ${to} (${ringOf(to)}), which comes after it`]
    : [];
}

function coreOrder(file: string, target: string, typeOnly: boolean): string[] {
  const [from, to] = [folder(file), folder(target)];
  if (from === 'format' && to === 'format' && file.split('/')[3] !== target.split('/')[3])
    return [`${file}: no format imports another (${target})`];
  const [a, b] = [CORE_ORDER.indexOf(from), CORE_ORDER.indexOf(to)];
  // Types may be named by a folder to the left; only values make an order of loading.
  return a >= 0 && b > a && !typeOnly ? [`${file}: ${from} may not use ${to}`] : [];
}

/** Files that come back to themselves through what they import, types included; each circle once. */
export function circles(imports: readonly Import[]): string[][] {
  const to = new Map<string, string[]>();
  for (const { file, to: name } of imports) {
    if (!name.startsWith('.')) continue;
    const plain = normalize(join(dirname(file), name)).replace(/\.jsx?$/, '');
    to.set(bare(file), [...(to.get(bare(file)) ?? []), plain]);
  }
  const found = new Map<string, string[]>();
  const ended = new Set<string>();
  const walk = (file: string, path: readonly string[]): void => {
    const at = path.indexOf(file);
    if (at >= 0) return void found.set([...path.slice(at)].sort().join(' '), [...path.slice(at), file]);
    if (ended.has(file)) return;
    for (const next of to.get(file) ?? []) walk(next, [...path, file]);
    ended.add(file);
  };
  for (const file of to.keys()) walk(file, []);
  return [...found.values()];
}
const bare = (file: string): string => file.replace(/\.tsx?$/, '');

/** What knows how a system writes its paths. */
const NATIVE = ['engine/src/disk/native-path.ts', 'engine/src/disk/real-path.ts'];
/** Paths inside places and archives, by the core's own functions. */
const PARTS = 'core/src/address/';
/** What makes, parts or compares paths as text, and what is to be used for it. */
const SURGERY: readonly (readonly [RegExp, string])[] = [
  [/from '(node:)?path(\/\w+)?'|import\('(node:)?path/, 'native-path knows node:path'],
  [/\.split\(('\/'|"\/"|\/\[[/\\]+\]\/)/, 'partsOf, or toAddress of a native path'],
  [/\.join\('\/'\)/, 'joined, or join of native paths'],
  [/(lastIndexOf|indexOf)\('\/'\)/, 'nameOf and folderOf, or basename and dirname'],
  [/(starts|ends)With\(`\$\{[^}]*\}\/`\)|\+ '\/'\)?\.startsWith|\+ sep\b/, 'isBelow, isInside or below'],
  [/\$\{\w*([fF]older|[rR]oot|dir|[pP]ath)\}\/[\w$]/, 'join'],
  [/realpathSync\(|realpath\(/, 'realPath'],
];

/** The places in a file where paths are treated as text. */
export function pathsAsText(file: string, text: string): string[] {
  if (NATIVE.includes(file) || file.startsWith(PARTS)) return [];
  const lines = text.split('\n').filter((line) => !/^\s*(\*|\/\/|\/\*)/.test(line));
  return SURGERY.flatMap(([pattern, instead]) =>
    lines.filter((line) => pattern.test(line)).map((line) => `${file}: ${line.trim()} (${instead})`),
  );
}

const sourcesOf = (packageName: string): string[] =>
  readdirSync(join(packageName, 'src'), { recursive: true })
    .map((f) => join(packageName, 'src', String(f)))
    .filter((f) => /\.ts$/.test(f) && !/\.test\.ts$/.test(f));

describe('one boundary between addresses and native paths', () => {
  test.each(['engine', 'server', 'cli'])('%s', (name) =>
    expect(sourcesOf(name).flatMap((f) => pathsAsText(f, readFileSync(f, 'utf8')))).toEqual([]),
  );
  test.each([
    "import { join } from 'node:path';",
    "const at = path.split('/');",
    "const name = path.slice(path.lastIndexOf('/') + 1);",
    'if (path.startsWith(`${root}/`)) return;',
    'const file = `${folder}/${name}`;',
    "const path = segments.join('/');",
    'const real = realpathSync(path);',
  ])('is told: %s', (line) => expect(pathsAsText('engine/src/move/x.ts', line)).toHaveLength(1));
});

describe('imports go one way', () => {
  test.each(Object.keys(MAY_USE))('%s', (name) => expect(importsOf(name).flatMap((i) => brokenRules(name, i))).toEqual([]));
  test.each(Object.keys(MAY_USE))('no circle in %s', (name) => expect(circles(importsOf(name))).toEqual([]));
  test('a circle is found', () => {
    const line = (file: string, to: string): Import => ({ file, to, typeOnly: true });
    expect(circles([line('web/src/a.ts', './b.js'), line('web/src/b.tsx', './c/d.js'), line('web/src/c/d.ts', '../a.js')])).toEqual([
      ['web/src/a', 'web/src/b', 'web/src/c/d', 'web/src/a'],
    ]);
  });
  test('the rules can be broken', () => {
    const at = (file: string, to: string): string[] => brokenRules(file.split('/')[0]!, { file, to, typeOnly: false });
    expect(at('core/src/map/x.ts', 'node:fs')).toHaveLength(1);
    expect(at('core/src/address/x.ts', '../mend/y.js')).toHaveLength(1);
    expect(at('core/src/format/csv/x.ts', '../geojson/y.js')).toHaveLength(1);
    expect(at('web/src/x.ts', '@rootmap/engine')).toHaveLength(1);
    expect(at('engine/src/x.ts', '../../server/src/y.js')).toHaveLength(1);
    expect(at('engine/src/disk/x.ts', '../survey/y.js')).toEqual([expect.stringContaining('disk (ground) may not use survey (knowing)')]);
    expect(at('engine/src/mend/x.ts', '../workbench/y.js')).toHaveLength(1);
    expect(at('engine/src/elsewhere/x.ts', '../disk/y.js')).toHaveLength(1);
    expect(at('engine/src/workbench/x.ts', '../mend/y.js')).toEqual([]);
  });
});
