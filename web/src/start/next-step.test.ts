import { expect, test } from '@jest/globals';
import type { ProjectSummary } from '@rootmap/core/contract';
import { nextStep } from './next-step.js';

const NONE = { sound: 3, adrift: 0, different: 0, incomplete: 0, absent: 0, unreadable: 0 };
const project = (totals: Partial<typeof NONE> | null, present = true): ProjectSummary =>
  ({ present, totals: totals && { ...NONE, ...totals } }) as unknown as ProjectSummary;

test.each([
  ['that is away', project({}, false), null],
  ['that nobody looked at', project(null), 'overview'],
  ['with a layer adrift, and one that is damaged', project({ adrift: 1, unreadable: 1 }), 'mend'],
  ['with a layer that draws other data', project({ different: 1 }), 'mend'],
  ['with a companion that is lost', project({ incomplete: 1 }), 'mend'],
  ['with a layer on a stick that is away', project({ absent: 2 }), 'send'],
  ['in order', project({}), 'send'],
])('of a project %s', (_, p, to) => expect(nextStep(p)?.to ?? null).toBe(to));

test('how many layers are to be mended is said, of both kinds', () => {
  expect(nextStep(project({ adrift: 1 }))!.label).toBe('Mend 1 layer');
  expect(nextStep(project({ adrift: 2, different: 3 }))!.label).toBe('Mend 5 layers');
});
