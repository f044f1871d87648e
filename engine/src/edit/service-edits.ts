import { randomUUID } from 'node:crypto';
import {
  patchAddLayers,
  patchReference,
  patchText,
  ProblemError,
  serviceAddress,
  type MapReference,
  type NewService,
  type TextPatch,
} from '@rootmap/core';
import { basename, join, pathFrom } from '../disk/native-path.js';
import type { PlannedWrite } from '../changes/change.js';
import { newMapPath } from '../maps/new-map-path.js';
import { planNewMap } from '../maps/plan-new-map.js';
import { readMaps } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import type { RootedScope } from '../project/scope.js';
import { referencesOf } from './edit-preview.js';
import { type Edit, type EditOptions, type EditPlan, planned, projectWrite, setMembers } from './planned.js';

export function planLinkService(scope: RootedScope, { name, service, url }: Edit<'link-service'>, options: EditOptions): EditPlan {
  const linked = scope.project?.services ?? [];
  if (linked.some((s) => s.name === name)) throw new ProblemError({ code: 'exists', path: `A service named ${name}` });
  const same = linked.find((s) => serviceAddress(s.url) === serviceAddress(url) && s.kind === service);
  if (same) throw new ProblemError({ code: 'wrong-use', message: `That server is linked already, as ${same.name}.` });
  return setMembers(scope, { services: [...linked, { name, kind: service, url }] }, `Link the service ${name}`, options);
}

/** A service goes from the project's list; layers that draw on it stay, and are told. */
export function planUnlinkService(scope: RootedScope, name: string, options: EditOptions): EditPlan {
  const linked = scope.project?.services ?? [];
  const service = linked.find((s) => s.name === name);
  if (!service) throw new ProblemError({ code: 'not-found', what: 'service', id: name });
  const plan = setMembers(scope, { services: linked.filter((s) => s !== service) }, `Unlink the service ${name}`, options);
  const drawn = readMaps(scope).maps.flatMap((map) =>
    map.layers.flatMap(({ layer }) =>
      layer.isService && serviceAddress(layer.reference!.href) === serviceAddress(service.url)
        ? [{ map: basename(map.path), title: layer.title, path: layer.reference!.href }]
        : [],
    ),
  );
  return { ...plan, preview: { ...plan.preview, loosened: drawn } };
}

/** The address below another server: what came after the service's own address stays, parameters too. */
function movedAddress(href: string, from: string, to: string): string | null {
  if (serviceAddress(href) !== serviceAddress(from)) return null;
  const [own, , ownQuery] = partsOf(href);
  const [old] = partsOf(serviceAddress(from));
  const [base, join, query] = partsOf(serviceAddress(to));
  if (!own.startsWith(old)) return null;
  const kept = ownQuery.split('&').filter((p) => p !== '' && !partsOf(serviceAddress(from))[2].split('&').includes(p));
  const all = [...query.split('&').filter(Boolean), ...kept].join('&');
  return `${base}${own.slice(old.length)}${all ? `${join || '?'}${all}` : ''}`;
}

const partsOf = (href: string): readonly [string, string, string] => {
  const at = href.indexOf('?');
  return at < 0 ? [href, '', ''] : [href.slice(0, at), '?', href.slice(at + 1)];
};

/** One answer for a server that moved: its link and every layer that draws on it lead to the new address. */
export function planMoveService(scope: RootedScope, { from, to }: Edit<'move-service'>, options: EditOptions): EditPlan {
  const references: { map: string; layer: string; title: string; before: string; after: string }[] = [];
  const steps: PlannedWrite[] = [];
  for (const map of readMaps(scope).maps) {
    const patches: TextPatch[] = [];
    const follow = (reference: MapReference): string | null => {
      const after = movedAddress(reference.href, from, to);
      if (after !== null) patches.push(...patchReference(reference, after));
      return after;
    };
    for (const { layer } of map.layers) {
      const after = layer.reference && follow(layer.reference);
      for (const other of layer.others) follow(other);
      if (after) references.push({ map: map.path, layer: layer.id, title: layer.title, before: layer.reference.href, after });
    }
    if (patches.length > 0) steps.push(writeOf(map, patchText(map.file.text, patches)));
  }
  const linked = scope.project?.services ?? [];
  const services = linked.map((s) => (serviceAddress(s.url) === serviceAddress(from) ? { ...s, url: to } : s));
  const all = [...steps, ...(scope.projectFile && services.some((s, i) => s !== linked[i]) ? projectWrite(scope, { services }) : [])];
  const plan = planned(scope, `Follow a server to ${new URL(to).host}`, 'mend', all, options);
  return {
    ...plan,
    preview: {
      ...plan.preview,
      references: referencesOf({ references }, scope),
      referenceCount: references.length,
      maps: steps.length,
    },
  };
}

/** Layers that draw on services, in a map that is there or a new one. */
export function planAddServices(scope: RootedScope, edit: Edit<'add-services'>, options: EditOptions): EditPlan {
  const path = edit.map === null ? newMapPath(scope, edit.title) : join(scope.root, edit.map);
  const seen = edit.map === null ? null : readMaps({ ...scope, maps: [path] }).maps[0];
  if (edit.map !== null && !seen) throw new ProblemError({ code: 'not-found', what: 'map', id: edit.map });
  const layers = edit.layers.map((l): NewService => ({ id: `urn:uuid:${randomUUID()}`, ...l }));
  const updated = new Date().toISOString().replace(/\.\d+Z$/, 'Z');
  const things = layers.length === 1 ? layers[0]!.title : `${layers.length} layers`;
  const made = seen
    ? {
        title: `Add ${things} to ${seen.file.title}`,
        steps: [writeOf(seen, patchText(seen.file.text, patchAddLayers(seen.file, layers, updated)))],
      }
    : planNewMap(scope, edit.title || things, options.who, layers, edit.crs ?? scope.project?.crs ?? null, { path }).change;
  const plan = planned(scope, made.title, 'save', made.steps, options);
  return {
    ...plan,
    preview: { ...plan.preview, added: layers.map((l) => ({ map: pathFrom(scope.root, path), title: l.title, href: l.href })) },
  };
}
