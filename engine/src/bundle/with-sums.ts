import { basename } from '../disk/native-path.js';
import { folderOf, joined, nameOf, parseDataPackage, type Resource } from '@rootmap/core';
import { readFileSync } from '../disk/files.js';
import { resourceNamed } from '../folders/origins.js';
import { RECORDS } from '../move/records.js';
import type { BundleFile } from './bundle-file.js';
import type { FileSum, PackPlan, ToFetch } from './pack-plan.js';
import { sha256Of } from './sha256-of.js';

/**
 * What stays out since it can be fetched again is told by its checksums: in the read-me, and in the record of origin beside
 * its place, so that whoever fetches it there knows whether it is what was left out.
 */
export async function withSums(plan: PackPlan): Promise<PackPlan> {
  if (plan.toFetch.length === 0) return plan;
  const toFetch: ToFetch[] = [];
  for (const f of plan.toFetch) {
    const sums: FileSum[] = [];
    for (const file of f.files) sums.push({ path: basename(file), hash: `sha256:${await sha256Of(file)}` });
    toFetch.push({ ...f, sums });
  }
  const folders = new Map<string, ToFetch[]>();
  for (const f of toFetch) folders.set(folderOf(f.path), [...(folders.get(folderOf(f.path)) ?? []), f]);
  const records = new Map([...folders].map(([folder, list]) => [joined([...(folder === '' ? [] : [folder]), RECORDS]), list] as const));
  const payload = plan.payload.map((file) => {
    const told = records.get(file.to);
    return told ? told.reduce(withSumsOf, file) : file;
  });
  return { ...plan, toFetch, payload, bytes: payload.reduce((sum, f) => sum + f.bytes, 0) };
}

/** A record with the checksums of one dataset. One that cannot be read goes in as it is. */
function withSumsOf(file: BundleFile, { path, sums }: ToFetch): BundleFile {
  const text = (file.content ?? readFileSync(file.source!)).toString('utf8');
  const record = parseDataPackage(text);
  if (!record) return file;
  const isIt = (r: Resource): boolean => r['path'] === nameOf(path);
  const resources = record.resources.some(isIt) ? record.resources : [...record.resources, resourceNamed(nameOf(path), null)];
  const told = resources.map((r) => (isIt(r) ? { ...r, 'rootmap:files': sums } : r));
  const content = Buffer.from(`${JSON.stringify({ ...record, resources: told }, null, 2)}\n`, 'utf8');
  return { ...file, content, bytes: content.length };
}
