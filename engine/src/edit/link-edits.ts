import { statSync } from 'node:fs';
import { isBelow, ProblemError } from '@rootmap/core';
import { basename } from '../disk/native-path.js';
import { linkTo } from '../links/link-to.js';
import { planFollow } from '../move/follow-moves.js';
import { pathAt } from '../move/plan-move.js';
import { readMaps } from '../project/read-maps.js';
import { linkLocations, type RootedScope } from '../project/scope.js';
import { emptyPreview, referencesOf } from './edit-preview.js';
import { type Edit, type EditOptions, type EditPlan, planned, setMembers } from './planned.js';

export function planLink(scope: RootedScope, edit: Edit<'link'>, options: EditOptions): EditPlan {
  const folder = options.resolve(edit.folder, false);
  if (!statSync(folder).isDirectory())
    throw new ProblemError({ code: 'wrong-use', message: `${folder} is a file. Link the folder it is in.` });
  const kept = (scope.project?.links ?? []).filter((l) => !edit.replaces.includes(l.name));
  const link = linkTo(scope, edit.name, folder, edit.note);
  if (kept.some((l) => l.name === edit.name)) throw new ProblemError({ code: 'exists', path: `A link named ${edit.name}` });
  return setMembers(scope, { links: [...kept, link] }, `Link ${edit.name}`, options);
}

/** One answer for a link that is gone: it leads to the folder where its data stands now, and so does every layer below it. */
export function planRelink(scope: RootedScope, edit: Edit<'relink'>, options: EditOptions): EditPlan {
  const links = scope.project?.links ?? [];
  const link = links.find((l) => l.name === edit.name);
  if (!link) throw new ProblemError({ code: 'not-found', what: 'link', id: edit.name });
  const folder = options.resolve(edit.folder, false);
  const title = `Find the link ${edit.name} again`;
  const before = linkLocations(scope).find((l) => l.name === edit.name)?.location;
  // An address that no place claims: only the link can be told anew; layers below it are found by it.
  if (!before)
    return setMembers(scope, { links: links.map((l) => (l === link ? linkTo(scope, l.name, folder, l.note) : l)) }, title, options);
  const { references, change } = planFollow(scope, [[{ from: pathAt(before, scope.places), to: folder }]], options.who);
  const plan = planned(scope, title, 'mend', change?.steps ?? [], options);
  return {
    ...plan,
    preview: {
      ...plan.preview,
      references: referencesOf({ references }, scope),
      referenceCount: references.length,
      maps: new Set(references.map((r) => r.map)).size,
    },
  };
}

/** A link goes from the project; what it led to stays. Layers that go through it are told. */
export function planUnlink(scope: RootedScope, name: string, options: EditOptions): EditPlan {
  const links = scope.project?.links ?? [];
  if (!links.some((l) => l.name === name)) throw new ProblemError({ code: 'not-found', what: 'link', id: name });
  const plan = setMembers(scope, { links: links.filter((l) => l.name !== name) }, `Unlink ${name}`, options);
  const through = layersThrough(scope, name);
  return { ...plan, preview: { ...plan.preview, loosened: through } };
}

function layersThrough(scope: RootedScope, name: string): { map: string; title: string; path: string }[] {
  const link = linkLocations(scope).find((l) => l.name === name);
  if (!link) return [];
  return readMaps(scope).maps.flatMap((map) =>
    map.layers.flatMap(({ layer, judgement }) =>
      judgement.location && isBelow(link.location, judgement.location, scope.places)
        ? [{ map: basename(map.path), title: layer.title, path: layer.reference?.href ?? '' }]
        : [],
    ),
  );
}

export function planFollowEdit(scope: RootedScope, { missed, who }: EditOptions): EditPlan {
  const { references, change } = planFollow(scope, missed, who);
  const title = change?.title ?? 'Nothing to follow';
  const preview = emptyPreview(title);
  return {
    change,
    preview: {
      ...preview,
      references: referencesOf({ references }, scope),
      referenceCount: references.length,
      maps: new Set(references.map((r) => r.map)).size,
      changes: change !== null,
    },
  };
}
