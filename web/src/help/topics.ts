/** Short help for a page: what it is for, its keys, what can go wrong there. */
export interface Topic {
  readonly id: string;
  readonly title: string;
  /** Pages that it is about: a path, of a project's stop its last part; `view` where a stop has several. */
  readonly at: { readonly path: string; readonly view?: string };
  readonly purpose: string;
  readonly steps: readonly string[];
  readonly keys: readonly (readonly [key: string, does: string])[];
  readonly troubles: readonly (readonly [what: string, remedy: string])[];
}

export const TOPICS: readonly Topic[] = [
  {
    id: 'projects',
    title: 'Projects',
    at: { path: '/' },
    purpose: 'All projects that you opened, how their layers are, and the next thing to do in each.',
    steps: [
      'Open the folder of a job: it is looked at, and nothing in it is changed.',
      'Or make a project from a title, or receive a bundle that was sent.',
    ],
    keys: [['/', 'find a project, map, layer or page']],
    troubles: [
      ['its folder is gone', 'Press “Look for it”: it is searched for in its place by its id.'],
      ['its place is not here', 'Plug the stick in or connect the share; what was known of the project stays.'],
    ],
  },
  {
    id: 'overview',
    title: 'Overview',
    at: { path: 'overview' },
    purpose: 'The root diagram: every layer of every map, and a line to where its data is.',
    steps: [
      'A line that ends in an open ring leads nowhere: the dashed box beside it says where the data was recorded.',
      'Point at a layer or a dataset: its lines come to the front.',
      'Search in the diagram, or save all of it as a picture or a table.',
    ],
    keys: [
      ['↑ ↓', 'from layer to layer'],
      ['← →', 'between a layer and its data'],
      ['Enter', 'where the layer can be put right, or what is known of the data'],
    ],
    troubles: [['a map is named as damaged', 'It is no valid JSON: the line and column are told, and the rest of the project goes on.']],
  },
  {
    id: 'folders',
    title: 'Folders',
    at: { path: 'folders' },
    purpose: 'The project on disk. What you move or rename here takes the references of all maps along.',
    steps: [
      'Drag, or cut and paste, things to where they belong: what maps it would rewrite is shown first.',
      'Give folders a purpose by a plan; put names right in one step.',
      'Originals are read-only; work on copies.',
    ],
    keys: [
      ['F2', 'rename'],
      ['Ctrl X, Ctrl V', 'cut and paste'],
      ['Delete', 'to the trash of the project'],
      ['Space', 'mark one more'],
    ],
    troubles: [
      ['something was moved outside the app', 'It is noticed within seconds: one press mends the maps.'],
      ['a file is held by another program', 'The move waits for it, or is refused whole; nothing is left half done.'],
    ],
  },
  {
    id: 'sources',
    title: 'Sources',
    at: { path: 'sources' },
    purpose: 'All data of the project and of its links: what it is, where it came from, and which layers draw it.',
    steps: [
      'Find data by its name, a field, its origin or its CRS.',
      'Tick some: bring them into a map, make copies in another CRS, or export them.',
    ],
    keys: [
      ['↑ ↓', 'from dataset to dataset'],
      ['Space', 'tick'],
    ],
    troubles: [['its CRS is not stated', 'Open it and press “Find its CRS”: coordinates are tried in those that make sense.']],
  },
  {
    id: 'bring-in',
    title: 'Bring in',
    at: { path: 'sources', view: 'intake' },
    purpose: 'Archives, folders and loose files come into the project: looked at first, then unpacked and checked.',
    steps: [
      'Drop something, or choose it in a place.',
      'See what it holds, where each part would go, and what its notes say of licence and CRS.',
      'Press “Bring in”: every checksum is compared.',
    ],
    keys: [],
    troubles: [
      ['it is cut off or damaged', 'It is said which entry; nothing of it is written.'],
      ['names would leave the folder', 'Such entries are never unpacked.'],
    ],
  },
  {
    id: 'links',
    title: 'Links',
    at: { path: 'sources', view: 'links' },
    purpose: 'Folders outside the project, linked by a name: layers keep finding their data when the folder moves.',
    steps: [
      'Link the folder that several projects share, once, at the highest level that makes sense.',
      'When it moves, say where it is now: all layers follow.',
    ],
    keys: [],
    troubles: [['its place is not there', 'What it held when it was seen last is kept, with its day.']],
  },
  {
    id: 'services',
    title: 'Services',
    at: { path: 'sources', view: 'services' },
    purpose: 'Servers that draw maps or give records: asked only when you link them.',
    steps: [
      'Paste the address of a service: what stands there is looked at.',
      'Bring a layer of it into a map, or take a copy of its records.',
    ],
    keys: [],
    troubles: [['it does not answer', 'The reason is told; layers keep their state, and are asked again when you say so.']],
  },
  {
    id: 'geodatabases',
    title: 'Geodatabases',
    at: { path: 'geodatabases' },
    purpose: 'GeoPackages of the project: made, filled, looked into, and kept small.',
    steps: [
      'Make one, or choose the one that results go to.',
      'Bring data in as a queue: each item has a receipt that other readers agree with.',
      'Rename, delete or export tables: layers of maps follow.',
    ],
    keys: [],
    troubles: [
      ['a source cannot be brought in', 'It is told why, and the others come in.'],
      ['the file got large', '“Give back free room” writes it anew without what is unused.'],
    ],
  },
  {
    id: 'maps',
    title: 'Maps',
    at: { path: 'maps' },
    purpose: 'Every map file with its picture, and every reference in it: how it is stored, and where it leads.',
    steps: [
      'Store references relatively, so that the project can move; what changes is shown before.',
      'Rehearse a move: see which layers would be lost, before anything is moved.',
    ],
    keys: [],
    troubles: [['a layer leaves the root', 'Link the folder that its data is in, or bring the data into the project.']],
  },
  {
    id: 'map',
    title: 'A map',
    at: { path: 'maps/edit' },
    purpose: 'Layers, their order, looks, labels and filters; what is drawn is what is saved.',
    steps: [
      'Choose a layer in the stack: its look, labels, filter and data stand below.',
      'Click into the map to see what is there, measure, or draw.',
      'Make a sheet at a scale with “Print frame”.',
      'Keep a look, or the layout of a sheet, by a name: other maps and projects take it.',
    ],
    keys: [
      ['Ctrl S', 'save the map'],
      ['Ctrl Z, Ctrl Shift Z', 'take a step back, do it again'],
      ['arrows, + −', 'move and zoom, when the map has the focus'],
      ['Enter', 'what is here, in the middle of the map'],
    ],
    troubles: [
      ['it was saved elsewhere meanwhile', 'What does not touch your work comes in; the rest is asked about.'],
      ['a layer is not drawn', 'Its line in the stack says why.'],
    ],
  },
  {
    id: 'mend',
    title: 'Mend',
    at: { path: 'mend' },
    purpose: 'Layers that lost their data: what happened, with the proof, and how they are put right.',
    steps: [
      'Choose what explains a group of layers and read its proof.',
      'What is certain is mended in one press; what is likely waits for your word.',
      'Point at the data by hand where nothing explains it.',
    ],
    keys: [['↑ ↓', 'from layer to layer, each with its proof']],
    troubles: [
      ['two copies are equal', 'You say which is meant; it is remembered.'],
      ['nothing is found', 'Search in more places, or say where the data is now.'],
    ],
  },
  {
    id: 'quality',
    title: 'Quality',
    at: { path: 'quality' },
    purpose: 'Checks of records, pixels and metadata, with sheets that stand beside the data.',
    steps: ['Check some or all datasets: each finding says where it is.', 'Sign a review: it holds for the data as it is now.'],
    keys: [],
    troubles: [['a sheet is out of date', 'The data changed since: check it again.']],
  },
  {
    id: 'send',
    title: 'Send',
    at: { path: 'send' },
    purpose: 'The project as one bundle: maps, all data they draw, references that hold where it arrives.',
    steps: [
      'See what goes along and how each layer will be there.',
      'Leave out what no map uses; bring along what stands outside.',
      'The bundle is read back before it is called made.',
    ],
    keys: [],
    troubles: [['a layer would be lost', 'It is named before, with the way to bring its data along.']],
  },
  {
    id: 'receive',
    title: 'Receive a bundle',
    at: { path: '/receive' },
    purpose: 'A bundle that was sent: looked into, checked against its checksums, and unpacked as a project.',
    steps: ['Choose the bundle: who sent it and what it holds is shown.', 'Choose an empty folder; it becomes the root.'],
    keys: [],
    troubles: [['a checksum is wrong', 'Nothing takes its place: ask for the bundle again.']],
  },
  {
    id: 'new',
    title: 'New project',
    at: { path: '/new' },
    purpose: 'From a title to a real folder with a plan, a CRS and a geodatabase.',
    steps: [
      'Type a title: the name of the folder follows from it.',
      'Choose a plan, trim its folders, choose a CRS by a click on the map or by its name.',
    ],
    keys: [],
    troubles: [['a path would be too long', 'The longest is shown: shorten the title or choose another place.']],
  },
  {
    id: 'places',
    title: 'Places',
    at: { path: '/places' },
    purpose: 'Drives, shares and sticks that Root Map may use, and what other machines call them.',
    steps: ['Name a folder or a drive as a place.', 'Give it the names that maps use: D:, \\\\server\\share.'],
    keys: [],
    troubles: [['a stick came back under another letter', 'It is known again by what is on it.']],
  },
  {
    id: 'journal',
    title: 'Journal',
    at: { path: '/journal' },
    purpose: 'Every change on disk, each with its files, and its undo.',
    steps: [
      'Narrow it down by project, sort of change, or a word.',
      'Undo a change: what stands on it is told before.',
      'See what waits in the trash of each project, and go there.',
    ],
    keys: [],
    troubles: [['a change waits', 'Its folder is away or its disk is full: it goes on by itself when that is over.']],
  },
];

/** The topic of a page; null: there is none. */
export function topicOf(pathname: string, search: string): Topic | null {
  const stop = /^\/p\/[^/]+\/(.+)$/.exec(pathname)?.[1] ?? null;
  const path = stop ?? pathname;
  const view = new URLSearchParams(search).get('view');
  const here = TOPICS.filter((t) => t.at.path === path);
  return here.find((t) => (t.at.view ?? null) === view) ?? here.find((t) => t.at.view === undefined) ?? null;
}

/** Topics that have all of the words somewhere. */
export function topicsWith(text: string): readonly Topic[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  return TOPICS.filter((t) => {
    const told = [t.title, t.purpose, ...t.steps, ...t.keys.flat(), ...t.troubles.flat()].join('\n').toLowerCase();
    return words.every((w) => told.includes(w));
  });
}
