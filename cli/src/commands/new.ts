import { BUILT_IN_PLANS, ProblemError } from '@rootmap/core';
import { planNewProject, runChange, stageEmpty } from '@rootmap/engine';
import type { Call, Command } from '../command.js';
import { withJournal } from '../journal.js';
import { who } from '../scope.js';
import { many } from '../text.js';

function planFlag(call: Call) {
  const wanted = call.flags['plan'];
  if (wanted === undefined) return BUILT_IN_PLANS[0]!;
  const plan = BUILT_IN_PLANS.find((p) => p.id === wanted);
  if (!plan)
    throw new ProblemError({
      code: 'wrong-use',
      message: `There is no plan "${String(wanted)}": ${BUILT_IN_PLANS.map((p) => p.id).join(', ')}.`,
    });
  return plan;
}

function crsFlag(call: Call): string | null {
  const crs = call.flags['crs'];
  if (crs === undefined) return null;
  if (typeof crs !== 'string' || !/^EPSG:[0-9]{4,6}$/.test(crs))
    throw new ProblemError({ code: 'wrong-use', message: 'Write the CRS as EPSG:n.' });
  return crs;
}

export const newProject: Command = {
  usage: 'new FOLDER --title T [--plan NAME] [--crs EPSG:n] [--geodatabase]',
  summary: 'Makes a folder a project: the folders of a plan, and a project file.',
  examples: ["new moorings --title 'Moorings of the bay' --crs EPSG:32624 --geodatabase"],
  flags: { title: { type: 'string' }, plan: { type: 'string' }, crs: { type: 'string' }, geodatabase: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const title = call.flags['title'];
    if (typeof title !== 'string' || title.trim() === '') throw new ProblemError({ code: 'wrong-use', message: 'Say --title TITLE.' });
    const plan = planNewProject(
      {
        root: call.paths[0]!,
        title,
        folders: planFlag(call).folders,
        crs: crsFlag(call),
        withGeodatabase: call.flags['geodatabase'] === true,
      },
      who(),
    );
    await withJournal((options) => runChange(plan.change, { ...options, stage: stageEmpty(crsFlag(call)) }));
    return {
      json: { root: call.paths[0]!, projectFile: plan.projectFile, created: plan.created },
      text: [...plan.created, `${many(plan.created.length, 'thing')} made`],
      status: 0,
    };
  },
};
