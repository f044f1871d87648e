import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import type {
  DuplicatesView,
  AdoptView,
  CrsView,
  EditApplied,
  EditPreview,
  FolderPlanView,
  FoldersView,
  HousekeepingView,
  JobView,
  NewProjectPreview,
  ProjectSummary,
  ProjectView,
} from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const desk = (path: string) => ({ place: 'desk', path });
let key = '';

beforeAll(async () => {
  mkdirSync(at());
  cpSync('testdata/open/example_project', at('check'), { recursive: true });
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
  key = ((await server.post('/api/projects', desk('check'))).body as { key: string }).key;
});
afterAll(() => server.stop());
const get = async <T>(path: string): Promise<T> => (await server.get(`/api/projects/${key}${path}`)).body as T;
const edit = (body: object) => server.post(`/api/projects/${key}/edits`, body);
const soon = async (done: () => Promise<boolean>): Promise<void> => {
  for (let i = 0; i < 80; i++) {
    if (await done()) return;
    await new Promise((r) => setTimeout(r, 50));
  }
  throw new Error('it did not come');
};

test('folders: sizes, roles and uses, as the project view counts them', async () => {
  expect((await edit({ kind: 'role', path: 'originals', role: 'originals' })).body).toMatchObject({ change: { state: 'done' } });
  const [folders, project] = [await get<FoldersView>('/folders'), await get<ProjectView>('')];
  expect(folders.isProject).toBe(true);
  expect(Object.values(folders.roles)).toContain('originals');
  const used = folders.things.filter((t) => t.usedBy > 0).reduce((sum, t) => sum + t.usedBy, 0);
  expect(used).toBe(project.maps.flatMap((m) => m.layers).length);
  expect(project.path).toBe('check');
});

test('a move is shown before and done as it was shown; quick leaves out the search for mentions', async () => {
  const { things } = await get<FoldersView>('/folders');
  const thing = things.find((t) => t.usedBy > 0 && t.path.startsWith('working/'))!;
  writeFileSync(at('check', 'note.txt'), `see ${thing.path}`);
  const body = { kind: 'move', moves: [{ from: desk(`check/${thing.path}`), to: desk(`check/results/${thing.path.split('/').at(-1)!}`) }] };
  const quick = (await server.post(`/api/projects/${key}/edits/plan?quick=1`, body)).body as EditPreview;
  const whole = (await server.post(`/api/projects/${key}/edits/plan`, body)).body as EditPreview;
  expect(quick.mentioned).toEqual([]);
  expect(whole.mentioned).toEqual(['note.txt']);
  expect(whole.files).toBe(thing.files.length);
  expect(existsSync(at('check', thing.path))).toBe(true);
  const done = (await edit(body)).body as EditApplied;
  expect(done).toMatchObject({ left: 0, change: { kind: 'move', state: 'done' } });
  expect((await get<FoldersView>('/folders')).things.find((t) => t.path.startsWith('results/') && t.usedBy === thing.usedBy)).toBeTruthy();
  expect((await server.post(`/api/journal/${done.change!.id}/undo`)).body).toMatchObject({ kept: [] });
  expect(existsSync(at('check', thing.path))).toBe(true);
});

test.each([
  ['up', { kind: 'move', moves: [{ from: desk('check/working'), to: desk('../elsewhere') }] }],
  ['from outside', { kind: 'move', moves: [{ from: desk('../../etc/passwd'), to: desk('check/passwd') }] }],
  ['encoded', { kind: 'trash', paths: [desk('check/%2e%2e/%2e%2e/x')] }],
  ['adopted from above', { kind: 'adopt', title: 'x', folders: [], moves: [{ path: '../../x', folder: 'y' }] }],
  ['adopted to above', { kind: 'adopt', title: 'x', folders: [], moves: [{ path: 'note.txt', folder: '../y' }] }],
  ['plan folder above', { kind: 'folders', folders: [{ path: '../x', role: 'maps' }] }],
  ['plan folder that is hidden', { kind: 'folders', folders: [{ path: '.rootmap/x', role: 'maps' }] }],
  ['role of what is above', { kind: 'role', path: '../x', role: 'maps' }],
  ['a name with a slash', { kind: 'names', chosen: { 'a.shp': '../../b.shp' } }],
  ['an unknown kind', { kind: 'format-disk' }],
  ['members of another kind', { kind: 'separate', paths: [] }],
  ['no kind', {}],
])('hostile: %s is refused with a sentence', async (_, body) => {
  const before = readdirSync(server.folder, { recursive: true }).filter((f) => !String(f).startsWith('data')).length;
  const answer = await edit(body);
  expect(answer.status).toBeGreaterThanOrEqual(400);
  expect(answer.status).toBeLessThan(500);
  expect((answer.body as { detail: string }).detail).toMatch(/[.]$/);
  expect(readdirSync(server.folder, { recursive: true }).filter((f) => !String(f).startsWith('data')).length).toBe(before);
});

test('plans: the built-in ones, one’s own kept and replaced, a shipped title refused', async () => {
  const plans = (await server.get('/api/plans')).body as FolderPlanView[];
  expect(plans.filter((p) => p.isBuiltIn)).toHaveLength(4);
  const own = { title: 'Harbour jobs', summary: '', folders: [{ path: 'in', role: 'originals', note: '' }] };
  await server.post('/api/plans', own);
  const twice = (await server.post('/api/plans', { ...own, folders: [...own.folders, { path: 'out', role: 'results', note: '' }] }))
    .body as FolderPlanView[];
  expect(twice.filter((p) => p.title === 'Harbour jobs').map((p) => p.folders.length)).toEqual([2]);
  expect((await server.post('/api/plans', { ...own, title: 'By use' })).status).toBe(400);
  const left = await server.ask('DELETE', `/api/plans/${twice.at(-1)!.id}`);
  expect(left.body).toHaveLength(4);
  expect((await server.ask('DELETE', '/api/plans/none')).status).toBe(404);
});

test('CRSs by words and by a spot; half a spot is refused', async () => {
  expect(((await server.get('/api/crs?q=32624')).body as CrsView[])[0]).toMatchObject({ code: 'EPSG:32624' });
  expect(((await server.get('/api/crs?longitude=-39&latitude=44')).body as CrsView[]).length).toBeGreaterThan(0);
  expect((await server.get('/api/crs?longitude=-39')).status).toBe(400);
  expect((await server.get('/api/crs')).status).toBe(400);
});

test('a new project: shown, made, undone; like another one; a project that is there already is refused', async () => {
  const folders = [
    { path: 'received', role: 'originals', note: '' },
    { path: 'received/<publisher>', role: 'originals', note: '' },
  ];
  mkdirSync(at('library'));
  const projectFile = at('check', 'check.rootmap.json');
  const old = JSON.parse(readFileSync(projectFile, 'utf8')) as object;
  const link = { name: 'library', path: '../library', address: null, note: 'shared' };
  writeFileSync(projectFile, JSON.stringify({ ...old, links: [link], naming: { rules: 'plain' } }));
  const body = { at: desk('jobs/new_one'), title: 'New one', folders, like: key };
  const shown = (await server.post('/api/new-project/plan', body)).body as NewProjectPreview;
  expect(shown).toMatchObject({ shownRoot: 'D:/jobs/new_one', isFilled: false, limit: 259 });
  expect(existsSync(at('jobs'))).toBe(false);
  const made = (await server.post('/api/new-project', body)).body as { key: string };
  expect(readdirSync(at('jobs', 'new_one')).sort()).toEqual(['new_one.rootmap.json', 'received']);
  // The link leads to the same folder from where the new root stands; the rules for names came along.
  expect(JSON.parse(readFileSync(at('jobs/new_one/new_one.rootmap.json'), 'utf8'))).toMatchObject({
    title: 'New one',
    links: [{ name: 'library', path: '../../library', note: 'shared' }],
    naming: { rules: 'plain' },
  });
  expect((await server.post('/api/new-project/plan', body)).status).toBe(400);
  expect(((await server.get('/api/projects')).body as ProjectSummary[]).some((p) => p.key === made.key)).toBe(true);
});

test('a grown folder is proposed a place for each thing, and adopted in one change', async () => {
  mkdirSync(at('grown', 'Stuff'), { recursive: true });
  cpSync(at('check', 'working'), at('grown', 'Stuff'), { recursive: true });
  const grown = ((await server.post('/api/projects', desk('grown'))).body as { key: string }).key;
  const folders = [{ path: 'received', role: 'originals', note: '' }];
  const { proposals } = (await server.post(`/api/projects/${grown}/adoption`, { folders })).body as AdoptView;
  expect(proposals.length).toBeGreaterThan(0);
  const moves = proposals.flatMap((p) => (p.folder ? [{ path: p.path, folder: p.folder }] : []));
  const done = (await server.post(`/api/projects/${grown}/edits`, { kind: 'adopt', title: 'Grown', folders, moves })).body as EditApplied;
  expect(done.change).toMatchObject({ state: 'done', title: 'Make Grown a project' });
  const list = (await server.get('/api/projects')).body as ProjectSummary[];
  expect(list.filter((p) => p.root === at('grown'))).toHaveLength(1);
  expect(list.find((p) => p.root === at('grown'))!.title).toBe('Grown');
});

test('a copied root is told apart and made separate; a moved one is followed', async () => {
  cpSync(at('check'), at('copied'), { recursive: true });
  const copied = ((await server.post('/api/projects', desk('copied'))).body as { key: string }).key;
  const copies = async () => ((await server.get('/api/projects')).body as ProjectSummary[]).filter((p) => p.isCopy).length;
  expect(await copies()).toBe(2);
  expect((await server.post(`/api/projects/${copied}/edits`, { kind: 'separate' })).status).toBe(200);
  expect(await copies()).toBe(0);
  renameSync(at('copied'), at('renamed_outside'));
  await soon(async () => ((await server.get('/api/projects')).body as ProjectSummary[]).some((p) => p.root === at('renamed_outside')));
  const seen = (await server.get(`/api/projects/${copied}`)).body as ProjectView; // by the key that somebody has open
  expect(seen.root).toBe(at('renamed_outside'));
  expect(seen.key).not.toBe(copied);
});

test('a root that the app itself moves is followed at once, and back by undo', async () => {
  const root = at('renamed_outside');
  const own = ((await server.get('/api/projects')).body as ProjectSummary[]).find((p) => p.root === root)!;
  mkdirSync(at('shelf'));
  const moved = (
    await edit({ kind: 'move', moves: [{ from: desk('renamed_outside'), to: desk('shelf/renamed_outside') }], evenOriginals: true })
  ).body as EditApplied;
  const roots = async () => ((await server.get('/api/projects')).body as ProjectSummary[]).map((p) => p.root);
  expect(await roots()).toContain(at('shelf/renamed_outside'));
  expect(((await server.get(`/api/projects/${own.key}`)).body as ProjectView).root).toBe(at('shelf/renamed_outside'));
  await server.post(`/api/journal/${moved.change!.id}/undo`);
  expect(await roots()).toContain(root);
});

test('equal files as a job; housekeeping; the trash is emptied only when asked', async () => {
  cpSync(at('check', 'note.txt'), at('check', 'note_2.txt'));
  const job = (await server.post(`/api/projects/${key}/duplicates`)).body as JobView;
  const result = (await server.finished(job.id)).result as DuplicatesView;
  expect(result.groups.map((g) => g.paths)).toContainEqual(['note.txt', 'note_2.txt']);
  expect(await get<HousekeepingView>('/housekeeping')).toMatchObject({ unpacked: [], fetchable: [] });
  await edit({ kind: 'trash', paths: [desk('check/note_2.txt')] });
  expect((await get<FoldersView>('/folders')).trashBytes).toBeGreaterThan(0);
  expect((await server.ask('DELETE', `/api/projects/${key}/trash`)).body).toMatchObject({ bytes: expect.any(Number) });
  expect((await get<FoldersView>('/folders')).trashBytes).toBe(0);
});

test('originals that change outside the app are reported until they are taken as they are', async () => {
  const { roles, things } = await get<FoldersView>('/folders');
  const folder = Object.keys(roles).find((f) => roles[f] === 'originals')!;
  const thing = things.find((t) => t.path.startsWith(`${folder}/`))!;
  await get('');
  await new Promise((r) => setTimeout(r, 800));
  const path = at('check', thing.path);
  const bytes = readFileSync(path);
  rmSync(path);
  writeFileSync(path, Buffer.concat([bytes, Buffer.from('x')]));
  await soon(async () => {
    await get('');
    return (await get<FoldersView>('/folders')).tampered.some((x) => x.path === thing.path && x.why === 'changed');
  });
  expect((await server.post(`/api/projects/${key}/originals/accept`)).status).toBe(204);
  expect((await get<FoldersView>('/folders')).tampered).toEqual([]);
});

test('finished: bundled and read back first, then links dropped and marked done', async () => {
  const { job } = (await edit({ kind: 'finish', bundle: desk('done.zip') })).body as EditApplied;
  expect(await server.finished(job!.id)).toMatchObject({ state: 'done' });
  expect(existsSync(at('done.zip'))).toBe(true);
  expect((await get<FoldersView>('/folders')).status).toBe('finished');
});
