import { existsSync, statSync } from 'node:fs';
import {
  CHECKS,
  ProblemError,
  worstOf,
  type CheckResult,
  type Progress,
  type QualityCheck,
  REPORT_FORMATS,
  reportOf,
  type ReportedSheet,
  type ReportFormat,
} from '@rootmap/core';
import {
  confinementOf,
  datasetsOfFile,
  dirname,
  idOf,
  planChecks,
  rooted,
  runChange,
  surveyFolder,
  type FoundDataset,
  type RootedScope,
  basename,
  resolve,
} from '@rootmap/engine';
import type { Call, Command } from '../command.js';
import { withJournal } from '../journal.js';
import { heads, scopeOf, who } from '../scope.js';
import { columns, many } from '../text.js';

const LEVELS = ['note', 'fail'] as const;

/** What the command stops at. */
function levelFlag(call: Call): (typeof LEVELS)[number] {
  const wanted = call.flags['require'] ?? 'fail';
  const level = LEVELS.find((l) => l === wanted);
  if (!level) throw new ProblemError({ code: 'wrong-use', message: '--require is note or fail: what makes the command end with 1.' });
  return level;
}

const isFolder = (path: string): boolean => statSync(path, { throwIfNoEntry: false })?.isDirectory() ?? false;

/** The file that the findings are written to, by its ending; null: none. It must not be there. */
function outFlag(call: Call): { readonly file: string; readonly format: ReportFormat } | null {
  const { out } = call.flags;
  if (typeof out !== 'string') return null;
  const file = resolve(call.cwd, out);
  const format = REPORT_FORMATS.find((f) => file.toLowerCase().endsWith(`.${f}`));
  if (!format) throw new ProblemError({ code: 'wrong-use', message: '--out takes a file that ends in .html, .csv or .json.' });
  if (existsSync(file)) throw new ProblemError({ code: 'exists', path: file });
  return { file, format };
}

/** The datasets of a folder, those of a file, or one table of it. */
function wantedOf(scope: RootedScope, path: string): FoundDataset[] {
  if (isFolder(path))
    return surveyFolder(path, confinementOf(path, scope.places))
      .datasets.filter((d) => ['vector', 'raster', 'table'].includes(d.kind))
      .map((dataset) => ({ folder: path, dataset }));
  const [file, table] = splitTable(path);
  return datasetsOfFile(file).filter((d) => table === null || d.dataset.table === table);
}

/** `FILE#TABLE`; a file may have `#` in its name. */
function splitTable(path: string): readonly [file: string, table: string | null] {
  const at = path.lastIndexOf('#');
  return at < 0 || datasetsOfFile(path).length > 0 ? [path, null] : [path.slice(0, at), path.slice(at + 1)];
}

const reaches = (checks: readonly QualityCheck[], level: CheckResult): boolean => {
  const worst = worstOf(checks);
  return worst === 'fail' || (level === 'note' && worst === 'note');
};

export const quality: Command = {
  usage: 'quality FOLDER|FILE[#TABLE] [--require note|fail] [--anew] [--keep] [--out FILE.html|.csv|.json]',
  summary:
    'Checks data in the terms of ISO 19157. --keep writes what was found into sheets beside the data; --require says what ends it with 1.',
  flags: { require: { type: 'string' }, anew: { type: 'boolean' }, keep: { type: 'boolean' }, out: { type: 'string' } },
  paths: [1, 1],
  run: async (call) => {
    const level = levelFlag(call);
    const path = call.paths[0]!;
    const folder = isFolder(path) ? path : dirname(splitTable(path)[0]);
    const scope = rooted(scopeOf(call, folder));
    const wanted = wantedOf(scope, path);
    if (wanted.length === 0) throw new ProblemError({ code: 'not-found', what: 'dataset', id: path });
    const onProgress = ({ item, done, unit }: Progress): void => call.progress(`${item}: ${done} ${unit}`);
    const keeps = call.flags['keep'] === true;
    const plan = await planChecks(scope, wanted, { anew: call.flags['anew'] === true, keeps, who: who(), nowMs: Date.now(), onProgress });
    const isKept = keeps && plan.change !== null;
    if (isKept) await withJournal((options) => runChange(plan.change!, options));
    const out = outFlag(call);
    if (out) {
      const sheets = plan.datasets.map((d): ReportedSheet => {
        const name = wanted.find((w) => idOf(w) === d.id)!.dataset.id;
        return { name, state: 'computed', at: new Date().toISOString(), checks: d.checks, review: null };
      });
      const after = Buffer.from(reportOf(sheets, out.format, basename(path)), 'utf8');
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
        sheets: plan.datasets.map((d) => ({ dataset: d.id, known: d.isKnown, checks: d.checks })),
        failed: plan.failed,
        kept: isKept,
      },
      text: [
        ...columns(found.map(([name, c]) => [c.result, name, CHECKS[c.code].title, c.detail])),
        ...plan.failed.map((f) => `not checked: ${f.dataset}: ${f.why}`),
        `${many(plan.datasets.length, 'dataset')} checked, ${bad} with something at or above "${level}"${isKept ? '; sheets are kept beside the data' : ''}`,
      ],
      status: bad > 0 ? 1 : 0,
    };
  },
};
