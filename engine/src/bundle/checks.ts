import {
  licenceNamed,
  looksSecret,
  nameOf,
  originFindings,
  unportablePaths,
  withoutSecrets,
  formatOf,
  isMapFile,
  partsOf,
  isInOrder,
  datasetId,
  ProblemError,
  type SheetState,
} from '@rootmap/core';
import type { Origins } from '../folders/origins.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import type { LayerRow } from '../project/layer-row.js';
import type { RootedScope } from '../project/scope.js';
import { readFileSync, MOST_NOTE_BYTES } from '../disk/files.js';
import { below, join } from '../disk/native-path.js';
import { SheetFiles } from '../quality/sheet-file.js';
import { canHaveSheet, sheetStateOf } from '../quality/quality-rows.js';
import type { BundleFile } from './bundle-file.js';
import type { OutsideThing, Needs } from './needs-of-maps.js';
import type { PackRequest } from './pack-request.js';

type CheckKind = 'names' | 'layers' | 'origins' | 'licences' | 'personal' | 'unsaved' | 'secrets' | 'sheets';
/** Where a person puts it right. */
type CheckFix = 'names' | 'mend' | 'along' | 'origin' | 'save' | 'quality';

/** One thing to know before a bundle is made. */
export interface SendCheck {
  readonly check: CheckKind;
  readonly path: string;
  readonly why: string;
  /** It can be sent so; the others will not work, or not everywhere. */
  readonly isNote: boolean;
  readonly fix: CheckFix | null;
}

interface ToCheck {
  readonly scope: RootedScope;
  readonly request: PackRequest;
  readonly payload: readonly BundleFile[];
  readonly layers: readonly LayerRow[];
  readonly services: Needs['services'];
  readonly outside: readonly OutsideThing[];
  readonly origins: Origins;
}

/**
 * What is checked before anything is written: names and lengths, layers, sheets that the project asks for, origins and licences, names
 * of persons, unsaved maps, secrets.
 */
export function checksOf(all: ToCheck): SendCheck[] {
  return [...names(all), ...layers(all), ...sheets(all), ...origins(all), ...personal(all), ...unsaved(all), ...secrets(all)];
}

const names = ({ payload, request }: ToCheck): SendCheck[] =>
  unportablePaths(
    payload.map((f) => f.to),
    request.choices.rootCharacters,
  ).map((f) => ({ check: 'names', ...f, isNote: false, fix: 'names' }));

function layers({ layers, scope }: ToCheck): SendCheck[] {
  return layers
    .filter((l) => !isInOrder(l.state))
    .map((l) => {
      const comes = l.detail?.endsWith('does not travel') ?? false;
      const why = comes ? `${l.title}: ${l.detail!}` : `${l.title}: ${l.state} now${l.detail ? `, ${l.detail}` : ''}`;
      const isOutside = comes && l.resolved !== null && below(scope.root, l.resolved) === null;
      return { check: 'layers', path: l.map, why, isNote: false, fix: comes ? (isOutside ? 'along' : null) : 'mend' };
    });
}

const LACKS: Readonly<Record<SheetState, string>> = {
  none: 'nobody checked it',
  computed: 'nobody reviewed it',
  reviewed: '',
  'out-of-date': 'its sheet is out of date: the data has changed since',
};

/** Data without the sheet that the project asks for. */
function sheets({ payload, scope }: ToCheck): SendCheck[] {
  const need = scope.project?.quality.sheets ?? 'none';
  if (need === 'none') return [];
  const files = payload.filter((f) => f.source !== null && f.isMain && f.from !== 'added' && isDataFile(f.to));
  const known = new SheetFiles();
  return files.flatMap((file) =>
    datasetsOfFile(file.source!)
      .filter(({ dataset }) => canHaveSheet(dataset))
      .flatMap((found): SendCheck[] => {
        const state = sheetStateOf(scope, found, known);
        if (state === 'reviewed' || (state === 'computed' && need === 'computed')) return [];
        return [{ check: 'sheets', path: datasetId(file.to, found.dataset.table), why: LACKS[state], isNote: false, fix: 'quality' }];
      }),
  );
}

/** Throws `wrong-use` where the project asks for sheets that are not there. */
export function assertSheets(findings: readonly SendCheck[]): void {
  const missing = findings.filter((f) => f.check === 'sheets');
  const [first] = missing;
  if (!first) return;
  const others = missing.length > 1 ? ` and ${missing.length - 1} more` : '';
  throw new ProblemError({
    code: 'wrong-use',
    message: `The project asks for a sheet of every dataset before it is sent, and ${first.path}${others} lack it (${first.why}). Check and review them in Quality, or ask for less there.`,
  });
}

const isDataFile = (path: string): boolean => {
  const format = formatOf(nameOf(path));
  return format !== null && format !== 'document' && !isMapFile(path);
};

/** Data that layers use: where it came from, and what its licence asks. */
function origins({ payload, origins: known }: ToCheck): SendCheck[] {
  const found: SendCheck[] = [];
  for (const file of payload) {
    if (file.source === null || !file.isMain || file.uses.length === 0 || !isDataFile(file.to)) continue;
    const all = known.allOf(file.source);
    const told = all.length > 0 ? all.map((o) => o.origin) : [null];
    for (const origin of told) {
      for (const { code, message } of originFindings(origin))
        if (code !== 'no-licence' || origin !== null)
          found.push({ check: code === 'no-licence' ? 'licences' : 'origins', path: file.to, why: message, isNote: true, fix: 'origin' });
      if (origin) found.push(...licence(file.to, origin.licence, origin.attribution));
    }
  }
  return [...new Map(found.map((f) => [`${f.check}\n${f.path}\n${f.why}`, f])).values()];
}

/** Words of licences that forbid handing on, as publishers write them. Common practice, no source: a guess, and told as one. */
const FORBIDS =
  /(not? (be )?(redistribut|pass|share|copi)|no redistribution|internal use|confidential|do not (distribute|share|pass)|all rights reserved|restricted)/i;

function licence(path: string, text: string, attribution: string): SendCheck[] {
  const known = licenceNamed(text);
  const check = (why: string, isNote: boolean): SendCheck => ({ check: 'licences', path, why, isNote, fix: 'origin' });
  if (known?.name.includes('-NC')) return [check(`${known.name} does not allow use for money`, true)];
  if (known?.asksForAttribution && attribution === '')
    return [check(`${known.name} asks for attribution, and the words for it are not recorded: the publisher is named instead`, true)];
  if (!known && FORBIDS.test(text)) return [check(`its licence reads as if it may not be passed on: "${text}"`, false)];
  return [];
}

const HOME = /(?:\/home|\/Users|\\Users|%5CUsers)(?:\/|\\|%5C)([^/\\%"#]+)/i;

/** Names of persons in what travels: in paths, and in addresses that stay absolute. */
function personal({ payload, request, scope }: ToCheck): SendCheck[] {
  const found: SendCheck[] = [];
  const person = request.person.trim().toLowerCase();
  for (const file of payload) {
    if (person.length > 2 && partsOf(file.to.toLowerCase()).some((part) => part.split(/[^\p{L}\p{N}]+/u).includes(person)))
      found.push({ check: 'personal', path: file.to, why: `its path has the name ${request.person}`, isNote: true, fix: 'names' });
    if (file.source === null || !/\.(owc\.json|rootmap\.json)$/i.test(file.to)) continue;
    const text = file.content?.toString('utf8') ?? readFileSync(file.source, 'utf8', MOST_NOTE_BYTES * 16);
    const name = HOME.exec(text)?.[1];
    if (name !== undefined && name.toLowerCase() !== 'public')
      found.push({
        check: 'personal',
        path: file.to,
        why: `an address in it names the folder of a person, ${name}`,
        isNote: true,
        fix: file.source === scope.projectFile ? null : 'along',
      });
  }
  return found;
}

const unsaved = ({ request, payload, scope }: ToCheck): SendCheck[] =>
  request.unsaved
    .filter((path) => payload.some((f) => f.source === join(scope.root, path)))
    .map((path) => ({
      check: 'unsaved',
      path,
      why: 'has changes that are not saved; the bundle has it as it was last saved',
      isNote: false,
      fix: 'save',
    }));

const secrets = ({ services, payload }: ToCheck): SendCheck[] => [
  ...services
    .filter((s) => withoutSecrets(s.address) !== s.address)
    .map((s): SendCheck => ({
      check: 'secrets',
      path: s.map,
      why: `the address of ${s.title} has a name, password or key in it, which is taken out in the bundle`,
      isNote: true,
      fix: null,
    })),
  ...payload
    .filter((f) => f.from !== 'inside' && looksSecret(nameOf(f.to)))
    .map((f): SendCheck => ({ check: 'secrets', path: f.to, why: 'by its name it holds a key or a password', isNote: false, fix: null })),
];
