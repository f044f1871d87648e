import { existsSync, readFileSync } from 'node:fs';
import {
  CHECKS,
  ProblemError,
  worstOf,
  type CheckResult,
  type Progress,
  type QualityCheck,
  REPORT_FORMATS,
  type ReportedSheet,
  type ReportFormat,
  scaleWords,
  accuracyWords,
  positionalAccuracy,
  readCheckPoints,
} from '@rootmap/core';
import {
  canHaveSheet,
  confinementOf,
  datasetsOfFile,
  dirname,
  idOf,
  planChecks,
  reportedSheet,
  reportFile,
  rooted,
  runChange,
  surveyFolder,
  type FoundDataset,
  type RootedScope,
  basename,
  resolve,
  compareDatasets,
  checkValidity,
  matchPoints,
  sheetStateOf,
  SheetFiles,
} from '@rootmap/engine';
import { textFlag, type Answer, type Call, type Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, isFolder, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

const LEVELS = ['note', 'fail'] as const;

/** What the command stops at. */
function levelFlag(call: Call): (typeof LEVELS)[number] {
  const wanted = call.flags['require'] ?? 'fail';
  const level = LEVELS.find((l) => l === wanted);
  if (!level) throw new ProblemError({ code: 'wrong-use', message: '--require is note or fail: what makes the command end with 1.' });
  return level;
}

/** The file that the findings are written to, by its ending; null: none. It must not be there. */
function outFlag(call: Call): { readonly file: string; readonly format: ReportFormat } | null {
  const { out } = call.flags;
  if (typeof out !== 'string') return null;
  const file = resolve(call.cwd, out);
  const format = REPORT_FORMATS.find((f) => file.toLowerCase().endsWith(`.${f}`));
  if (!format) throw new ProblemError({ code: 'wrong-use', message: '--out takes a file that ends in .pdf, .html, .csv or .json.' });
  if (existsSync(file)) throw new ProblemError({ code: 'exists', path: file });
  return { file, format };
}

/** The datasets of a folder, those of a file, or one table of it. */
function wantedOf(scope: RootedScope, path: string): FoundDataset[] {
  if (isFolder(path))
    return surveyFolder(path, confinementOf(path, scope.places))
      .datasets.filter(canHaveSheet)
      .map((dataset) => ({ folder: path, dataset }));
  return named(path);
}

/** `FILE#TABLE`; a file may have `#` in its name. */
function splitTable(path: string): readonly [file: string, table: string | null] {
  const at = path.lastIndexOf('#');
  return at < 0 || datasetsOfFile(path).length > 0 ? [path, null] : [path.slice(0, at), path.slice(at + 1)];
}

/** How far apart places are in the data and in a better source: four columns of a file. */
function measured(call: Call, path: string): Answer {
  const { points, odd } = readCheckPoints(readFileSync(path, 'utf8'));
  if (points.length === 0)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${path} has no check points: lines of x, y, and both as the better source has them.`,
    });
  const found = positionalAccuracy(points);
  return {
    json: { ...heads(scopeOf(call, dirname(path))), ...found, odd },
    text: [accuracyWords(found, 'units'), ...(odd.length > 0 ? [`no four numbers in line ${odd.join(', ')}: left out`] : [])],
    status: odd.length > 0 ? 1 : 0,
  };
}

/** Whether shapes keep the rules of simple features, and nothing else; nothing is written. */
function validity(call: Call, scope: RootedScope, wanted: readonly FoundDataset[]): Answer {
  const some = wanted.filter(({ dataset }) => dataset.kind === 'vector' && dataset.state !== 'unreadable');
  const told = ({ item, done, unit }: Progress): void => call.progress(`${item}: ${done} ${unit}`);
  const found = some.map((d) => ({ dataset: idOf(d), name: d.dataset.id, check: checkValidity(d, told) }));
  const bad = found.filter((f) => f.check.result !== 'pass');
  return {
    json: { ...heads(scope), sheets: found.map(({ dataset, check }) => ({ dataset, checks: [check] })) },
    text: [
      ...columns(bad.map((f) => [f.name, f.check.detail])),
      `${many(found.length, 'dataset')} looked at, ${bad.length} with shapes that break the rules`,
    ],
    status: bad.length > 0 ? 1 : 0,
  };
}

/** The same with points that are found in both: by a key, or the nearest. */
function measuredAgainst(call: Call, scope: RootedScope, wanted: readonly FoundDataset[], better: string): Answer {
  const [own, other] = [only(wanted, '--better'), only(named(better), '--better')];
  const key = textFlag(call, 'key');
  const within = Number(call.flags['within'] ?? NaN);
  if (key === null && !(within > 0))
    throw new ProblemError({
      code: 'wrong-use',
      message: '--better takes --key FIELD, or --within N in units of the data, for the nearest.',
    });
  const { pairs, unmatched, ambiguous, left } = matchPoints(own, other, { key, within });
  if (pairs.length === 0) throw new ProblemError({ code: 'wrong-use', message: `No point of ${idOf(own)} has its like in ${better}.` });
  const found = positionalAccuracy(pairs);
  return {
    json: { ...heads(scope), dataset: idOf(own), better: idOf(other), ...found, unmatched, ambiguous, left },
    text: [
      accuracyWords(found, 'units'),
      `${unmatched} without a like, ${ambiguous} with several${left > 0 ? `, ${left} more pairs left out` : ''}`,
    ],
    status: 0,
  };
}

/** The datasets of `FILE[#TABLE]`. */
function named(path: string): FoundDataset[] {
  const [file, table] = splitTable(path);
  return datasetsOfFile(file).filter((d) => table === null || d.dataset.table === table);
}

function only(found: readonly FoundDataset[], flag: string): FoundDataset {
  const [one] = found;
  if (found.length !== 1 || !one)
    throw new ProblemError({ code: 'wrong-use', message: `${flag} holds one dataset against one other: name a file, or FILE#TABLE.` });
  return one;
}

/** What became of the records of the other dataset in this one. Ends with 1 where something did. */
function compared(call: Call, scope: RootedScope, wanted: readonly FoundDataset[], against: string): Answer {
  const [now, before] = [only(wanted, '--against'), only(named(against), '--against')];
  const found = compareDatasets(before, now, textFlag(call, 'key'));
  const { same, added, removed, changed } = found;
  const side = ({ records, vertices, scale }: typeof found.before): string =>
    `${many(records, 'record')}, ${many(vertices, 'corner')}${scale === null ? '' : `, bears about ${scaleWords(scale)}`}`;
  return {
    json: { ...heads(scope), dataset: idOf(now), against: idOf(before), ...found },
    text: [
      `before: ${side(found.before)}`,
      `now:    ${side(found.after)}`,
      found.key === null ? 'told by shape and content: no field is a key of both' : `told by ${found.key}`,
      ...(found.fields.added.length > 0 ? [`new fields: ${found.fields.added.join(', ')}`] : []),
      ...(found.fields.gone.length > 0 ? [`gone fields: ${found.fields.gone.join(', ')}`] : []),
      `${same} the same, ${added} added, ${removed} removed, ${changed} changed`,
    ],
    status: added + removed + changed > 0 ? 1 : 0,
  };
}

/** What was computed just now, also where nothing is kept. */
const withChecks = (sheet: ReportedSheet, checks: readonly QualityCheck[], nowMs: number): ReportedSheet => ({
  ...sheet,
  checks,
  state: sheet.state === 'none' ? 'computed' : sheet.state,
  at: new Date(nowMs).toISOString(),
});

const reaches = (checks: readonly QualityCheck[], level: CheckResult): boolean => {
  const worst = worstOf(checks);
  return worst === 'fail' || (level === 'note' && worst === 'note');
};

export const quality: Command = {
  usage:
    'quality FOLDER|FILE[#TABLE] [--require note|fail] [--validity] [--anew] [--keep] [--out FILE.pdf|.html|.csv|.json] | quality FILE[#TABLE] --against FILE[#TABLE] [--key FIELD] | quality FILE[#TABLE] --better FILE[#TABLE] --key FIELD|--within N | quality --points FILE',
  summary:
    'Checks data in the terms of ISO 19157. --keep writes what was found into sheets beside the data; --require says what ends it with 1.',
  examples: [
    'quality .',
    'quality originals/beds.shp --keep',
    'quality . --out quality.pdf --require fail',
    'quality new.shp --against old.shp --key id',
  ],
  flags: {
    require: { type: 'string' },
    anew: { type: 'boolean' },
    keep: { type: 'boolean' },
    out: { type: 'string' },
    against: { type: 'string' },
    key: { type: 'string' },
    points: { type: 'boolean' },
    validity: { type: 'boolean' },
    better: { type: 'string' },
    within: { type: 'string' },
  },
  paths: [1, 1],
  run: async (call) => {
    const level = levelFlag(call);
    const out = outFlag(call);
    const path = call.paths[0]!;
    if (call.flags['points'] === true) return measured(call, path);
    const folder = isFolder(path) ? path : dirname(splitTable(path)[0]);
    const scope = rooted(scopeOf(call, folder));
    const wanted = wantedOf(scope, path);
    if (wanted.length === 0) throw new ProblemError({ code: 'not-found', what: 'dataset', id: path });
    if (call.flags['validity'] === true) return validity(call, scope, wanted);
    const { against, better } = call.flags;
    if (typeof better === 'string') return measuredAgainst(call, scope, wanted, resolve(call.cwd, better));
    if (typeof against === 'string') return compared(call, scope, wanted, resolve(call.cwd, against));
    const onProgress = ({ item, done, unit }: Progress): void => call.progress(`${item}: ${done} ${unit}`);
    const keeps = call.flags['keep'] === true;
    const sheetFiles = new SheetFiles();
    const states = new Map(wanted.map((d) => [idOf(d), sheetStateOf(scope, d, sheetFiles)]));
    const plan = await planChecks(scope, wanted, { anew: call.flags['anew'] === true, keeps, who: who(), nowMs: Date.now(), onProgress });
    const isKept = keeps && plan.change !== null;
    if (isKept) await withJournal((options) => runChange(plan.change!, options));
    if (out) {
      const nowMs = Date.now();
      const written = new SheetFiles();
      const data = plan.datasets.flatMap((d) => wanted.filter((w) => idOf(w) === d.id));
      const sheets = data.map((found, i) => withChecks(reportedSheet(scope, found, written), plan.datasets[i]!.checks, nowMs));
      const after = await reportFile(sheets, data, { format: out.format, title: basename(path), nowMs });
      const steps = [{ kind: 'write' as const, path: out.file, before: null, after }];
      const change = { title: `Write ${basename(out.file)}`, kind: 'quality' as const, root: dirname(out.file), who: who(), steps };
      await withJournal((options) => runChange(change, options));
    }
    const names = new Map(wanted.map((d) => [idOf(d), d.dataset.id]));
    const found = plan.datasets.flatMap((d) =>
      d.checks.filter((c) => c.result !== 'pass').map((c) => [names.get(d.id) ?? d.id, c] as const),
    );
    const bad = plan.datasets.filter((d) => reaches(d.checks, level)).length + plan.failed.length;
    return {
      json: {
        ...heads(scope),
        sheets: plan.datasets.map((d) => ({ dataset: d.id, state: states.get(d.id) ?? 'none', known: d.isKnown, checks: d.checks })),
        failed: plan.failed,
        kept: isKept,
      },
      text: [
        ...columns(found.map(([name, c]) => [c.result, name, CHECKS[c.code].title, c.detail])),
        ...plan.datasets
          .filter((d) => states.get(d.id) === 'out-of-date')
          .map((d) => `out of date: ${names.get(d.id) ?? d.id}: the data has changed since its sheet`),
        ...plan.failed.map((f) => `not checked: ${f.dataset}: ${f.why}`),
        `${many(plan.datasets.length, 'dataset')} checked, ${bad} with something at or above "${level}"${isKept ? '; sheets are kept beside the data' : ''}`,
      ],
      status: bad > 0 ? 1 : 0,
    };
  },
};
