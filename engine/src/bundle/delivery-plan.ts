import { statSync } from 'node:fs';
import { deliveryFault, DELIVERY_PLANS, must, parseFolderPlan, ProblemError, type FolderPlan } from '@rootmap/core';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';

/** A plan that ships, by its name, or that in a file. Throws `wrong-use` where it is neither, or can arrange nothing. */
export function deliveryPlan(name: string, file: string): FolderPlan {
  const shipped = DELIVERY_PLANS.find((p) => p.id === name);
  if (shipped) return shipped;
  if (!statSync(file, { throwIfNoEntry: false })?.isFile())
    throw new ProblemError({
      code: 'wrong-use',
      message: `No plan is called ${name}. Name the file of a folder plan, or one of these: ${DELIVERY_PLANS.map((p) => p.id).join(', ')}.`,
    });
  const plan = must(parseFolderPlan(file, readFileSync(file, 'utf8', MOST_NOTE_BYTES)));
  const fault = deliveryFault(plan);
  if (fault !== null) throw new ProblemError({ code: 'wrong-use', message: `The plan in ${file} cannot arrange a bundle: ${fault}.` });
  return plan;
}
