import { parseArgs } from 'node:util';
import { explain, ProblemError } from '@rootmap/core';
import {
  resolve,
  fromNative,
  dataFolder,
  gridsBelow,
  keptPlaces,
  asSpelled,
  wholeDisks,
  openPlace,
  parsePlaceList,
  parsePlaceSetting,
  setGridsFolder,
} from '@rootmap/engine';
import type { Call, Command, ExitStatus } from './command.js';
import { version } from './version.js';

/** Loaded when called, so that reading commands load nothing that only writing needs. */
const COMMANDS: Readonly<Record<string, () => Promise<Command>>> = {
  new: () => import('./commands/new.js').then((m) => m.newProject),
  datasets: () => import('./commands/datasets.js').then((m) => m.datasets),
  layers: () => import('./commands/layers.js').then((m) => m.layers),
  remember: () => import('./commands/remember.js').then((m) => m.remember),
  paths: () => import('./commands/paths.js').then((m) => m.paths),
  move: () => import('./commands/move.js').then((m) => m.move),
  rehearse: () => import('./commands/rehearse.js').then((m) => m.rehearse),
  'bring-in': () => import('./commands/bring-in.js').then((m) => m.bringIn),
  map: () => import('./commands/map.js').then((m) => m.map),
  print: () => import('./commands/print.js').then((m) => m.print),
  export: () => import('./commands/export.js').then((m) => m.takeOut),
  copies: () => import('./commands/copies.js').then((m) => m.copies),
  trash: () => import('./commands/trash.js').then((m) => m.trash),
  completion: () => import('./commands/completion.js').then((m) => m.completionOf(COMMANDS, Object.keys(COMMON))),
  links: () => import('./commands/links.js').then((m) => m.links),
  origins: () => import('./commands/origins.js').then((m) => m.origins),
  journal: () => import('./commands/history.js').then((m) => m.journal),
  undo: () => import('./commands/history.js').then((m) => m.undo),
  note: () => import('./commands/note.js').then((m) => m.note),
  notes: () => import('./commands/notes.js').then((m) => m.notes),
  quality: () => import('./commands/quality.js').then((m) => m.quality),
  names: () => import('./commands/names.js').then((m) => m.names),
  mend: () => import('./commands/mend.js').then((m) => m.mend),
  geodatabase: () => import('./commands/geodatabase.js').then((m) => m.geodatabase),
  pack: () => import('./commands/pack.js').then((m) => m.pack),
  verify: () => import('./commands/verify.js').then((m) => m.verify),
  services: () => import('./commands/services.js').then((m) => m.services),
  fetch: () => import('./commands/fetch.js').then((m) => m.fetchData),
  editions: () => import('./commands/editions.js').then((m) => m.editions),
  receive: () => import('./commands/receive.js').then((m) => m.receive),
};

/** Flags of every command. */
const COMMON = {
  json: { type: 'boolean' },
  quiet: { type: 'boolean' },
  place: { type: 'string', multiple: true },
  root: { type: 'string' },
  help: { type: 'boolean' },
} as const;

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

/** Runs one command line and gives its exit status. All output goes through here. */
export async function run(argv: readonly string[]): Promise<ExitStatus> {
  const [name, ...rest] = argv;
  try {
    if (name === '--version') {
      print([`rootmap ${version()}`]);
      return 0;
    }
    if (name === undefined || name === 'help' || name === '--help') return await help(rest[0]);
    return await runCommand(await commandNamed(name), rest);
  } catch (error) {
    return report(error);
  }
}

function commandNamed(name: string): Promise<Command> {
  const load = Object.hasOwn(COMMANDS, name) ? COMMANDS[name] : undefined;
  if (!load) throw wrongUse(`There is no command "${name}". rootmap help lists those that are there.`);
  return load();
}

async function runCommand(command: Command, argv: readonly string[]): Promise<ExitStatus> {
  const { values, positionals } = parse(command, argv);
  if (values['help']) {
    print(pageOf(command));
    return 0;
  }
  const [fewest, most] = command.paths;
  if (positionals.length < fewest || positionals.length > most) throw wrongUse(`Usage: rootmap ${command.usage}`);
  const cwd = callersFolder();
  setGridsFolder(gridsBelow(dataFolder()));
  const paths = positionals.map((p) => asSpelled(resolve(cwd, p)));
  const quiet = values['quiet'] === true;
  const call: Call = {
    paths,
    words: positionals,
    flags: values,
    cwd,
    places: placesFor(values, cwd, paths),
    progress: (text) => {
      if (!quiet && process.stderr.isTTY) process.stderr.write(`\r\x1b[K${text}`);
    },
  };
  const answer = await command.run(call);
  if (!quiet && process.stderr.isTTY) process.stderr.write('\r\x1b[K');
  if (values['json']) process.stdout.write(`${JSON.stringify(answer.json, null, 2)}\n`);
  else if (!quiet) print(answer.text);
  return answer.status;
}

/** Under npx the caller's folder is in INIT_CWD; otherwise it is the working folder. */
const callersFolder = (): string =>
  fromNative(process.env['npm_command'] === 'exec' && process.env['INIT_CWD'] ? process.env['INIT_CWD'] : process.cwd());

function parse(command: Command, argv: readonly string[]) {
  try {
    return parseArgs({ args: [...argv], options: { ...COMMON, ...command.flags }, allowPositionals: true, strict: true });
  } catch (error) {
    throw wrongUse(`${(error as Error).message.split('\n')[0]} Usage: rootmap ${command.usage}`);
  }
}

function placesFor(values: Call['flags'], cwd: string, paths: readonly string[]) {
  const named = ((values['place'] ?? []) as readonly string[]).map((p) => parsePlaceSetting(p, cwd));
  const given = [...parsePlaceList(process.env['ROOTMAP_PLACES'], cwd), ...named];
  // Where none is given, those that were added in the app.
  return [...wholeDisks([cwd, ...paths]), ...(given.length > 0 ? given : keptPlaces(dataFolder()))].map(openPlace);
}

const print = (lines: readonly string[]): void => void process.stdout.write(lines.map((l) => `${l}\n`).join(''));

function report(error: unknown): ExitStatus {
  if (!(error instanceof ProblemError)) {
    process.stderr.write(
      `rootmap: an error of the program itself: ${String(error)}\n${process.env['ROOTMAP_DEBUG'] ? ((error as Error).stack ?? '') : ''}`,
    );
    return 3;
  }
  process.stderr.write(`rootmap: ${explain(error.problem).replace(/\s*\n\s*/g, ' ')}\n`);
  return ['locked', 'no-space', 'io', 'busy', 'changed-meanwhile', 'failed', 'cancelled', 'read-only', 'no-service'].includes(
    error.problem.code,
  )
    ? 3
    : 2;
}

/** One page on a command. */
const pageOf = ({ usage, summary, examples, flags }: Command): string[] => [
  `rootmap ${usage}`,
  '',
  summary,
  '',
  'Examples:',
  ...examples.map((e) => `  rootmap ${e}`),
  '',
  `Everywhere: ${EVERYWHERE}`,
  ...('apply' in flags ? ['Without --apply nothing on disk changes: it is told what would.'] : []),
];

const EVERYWHERE = '--json, --quiet, --root FOLDER, --place NAME=FOLDER[,DRIVE…] (also in ROOTMAP_PLACES, separated by ;)';

/** One page on all commands, or on one. */
async function help(name: string | undefined): Promise<ExitStatus> {
  if (name !== undefined) {
    const pages = name === 'all' ? Object.keys(COMMANDS) : [name];
    for (const one of pages) print([...pageOf(await commandNamed(one)), ...(name === 'all' ? [''] : [])]);
    return 0;
  }
  const lines = ['rootmap COMMAND …', ''];
  for (const load of Object.values(COMMANDS)) {
    const command = await load();
    lines.push(`  rootmap ${command.usage}`, `      ${command.summary}`);
  }
  lines.push(
    '',
    'rootmap help COMMAND has one page on each, with examples, rootmap help all has all of them; rootmap completion SHELL completes them as you type.',
    `Everywhere: ${EVERYWHERE}`,
    'Where no place is given, those that were added in the app are used. rootmap --version says which version this is.',
    'Nothing on disk changes without --apply, except where the name of the command is the change.',
  );
  print(lines);
  return 0;
}
