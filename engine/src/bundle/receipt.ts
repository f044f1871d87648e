import { basename } from '../disk/native-path.js';
import type { PackPlan } from './pack-plan.js';
import { sha256Of } from './sha256-of.js';
import type { VerifyResult } from './verify.js';

const RECEIPT_FORMAT = 'rootmap-receipt/1';

/** What a bundle is told by beside it: its hash, who made it and when, what it holds, and what was checked. Not in it, so that the same project gives the same bytes. */
export async function receiptOf(
  plan: PackPlan,
  made: { readonly file: string; readonly staged: string; readonly bytes: number; readonly who: string; readonly check: VerifyResult },
): Promise<string> {
  const states: Record<string, number> = {};
  for (const layer of plan.layers) states[layer.state] = (states[layer.state] ?? 0) + 1;
  const checks: Record<string, number> = {};
  for (const finding of plan.findings) checks[finding.check] = (checks[finding.check] ?? 0) + 1;
  const receipt = {
    format: RECEIPT_FORMAT,
    file: basename(made.file),
    bytes: made.bytes,
    sha256: await sha256Of(made.staged),
    title: plan.scope.project?.title ?? basename(plan.scope.root),
    projectId: plan.scope.project?.id ?? null,
    sentBy: made.who,
    made: new Date().toISOString(),
    payload: { files: plan.payload.length, bytes: plan.bytes },
    readBack: { files: made.check.files, bytes: made.check.bytes },
    layersOnArrival: states,
    checks,
    notCarried: { services: plan.services.length, leftOut: plan.leftOut.length, toFetch: plan.toFetch.length },
  };
  return `${JSON.stringify(receipt, null, 2)}\n`;
}
