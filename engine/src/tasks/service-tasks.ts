import { isCollection, ProblemError, serviceAddress, type Origin, type ServiceTree } from '@rootmap/core';
import type { NewerDataset } from '@rootmap/core/contract';
import { join, pathFrom } from '../disk/native-path.js';
import { copyFeatures, type Copied, type CopyOrder } from '../online/copy-features.js';
import { comparedWith, planTakeEdition, type TakenEdition } from '../online/take-edition.js';
import { unpackWhole } from '../intake/unpack.js';
import { recordedAddresses, type RecordedAddress } from '../online/recorded-addresses.js';
import { planPutBack, type PutBack } from '../online/put-back.js';
import { stayedOut, type StayedOut } from '../folders/stayed-out.js';
import { datasetsOfFile, findDataset } from '../project/find-dataset.js';
import { readMaps } from '../project/read-maps.js';
import { Wire } from '../wire/wire.js';
import { scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

/** A layer that draws on a service. */
export interface ServiceLayer {
  /** From the root. */
  readonly map: string;
  readonly mapTitle: string;
  readonly layer: string;
  readonly title: string;
  readonly href: string;
}
export interface ProjectServices {
  readonly linked: readonly { readonly name: string; readonly kind: ServiceTree['kind']; readonly url: string }[];
  readonly layers: readonly ServiceLayer[];
}

/** A table that is a copy of a collection. */
export interface CopiedCollection {
  /** Real path of its geodatabase. */
  readonly path: string;
  readonly table: string;
  readonly address: string;
  readonly degrees: readonly number[] | null;
  readonly crs: string | null;
  readonly usedBy: number;
}

/** Linked services: which a project has and draws on, and copying of what they offer. */
export const SERVICE_TASKS = {
  'project-services': (input: TaskBase): ProjectServices => {
    const scope = scopeOf(input);
    const layers = readMaps(scope).maps.flatMap((map) =>
      map.layers.flatMap(({ layer }) =>
        layer.isService
          ? [
              {
                map: pathFrom(scope.root, map.path),
                mapTitle: map.file.title,
                layer: layer.id,
                title: layer.title,
                href: layer.reference!.href,
              },
            ]
          : [],
      ),
    );
    return { linked: scope.project?.services ?? [], layers };
  },
  'recorded-addresses': (input: TaskBase & { roots: readonly string[] }): readonly RecordedAddress[] =>
    recordedAddresses(scopeOf(input, true), input.roots),
  'plan-take-edition': async (
    input: TaskBase & {
      readonly file: string;
      readonly isFolder: boolean;
      readonly unpacked: string;
      readonly wanted: readonly RecordedAddress[];
      readonly origin: Pick<Origin, 'fetched' | 'edition'>;
    },
  ): Promise<TakenEdition> => {
    const { file, isFolder, unpacked, wanted, origin, who } = input;
    if (!isFolder) await unpackWhole(file, unpacked);
    return planTakeEdition(scopeOf(input), wanted, isFolder ? file : unpacked, origin, who);
  },
  'stayed-out': (input: TaskBase): readonly StayedOut[] => stayedOut(scopeOf(input, true)),
  'plan-put-back': async (
    input: TaskBase & {
      readonly folder: string;
      readonly wanted: readonly StayedOut[];
      readonly origin: Pick<Origin, 'fetched' | 'edition'>;
      readonly takesOther: boolean;
    },
  ): Promise<PutBack> => planPutBack(scopeOf(input), input.wanted, input.folder, input.origin, input),
  'copied-collection': ({ dataset, ...input }: TaskBase & { dataset: string; roots: readonly string[] }): CopiedCollection => {
    const scope = scopeOf(input, true);
    const recorded = recordedAddresses(scope, input.roots).find((r) => r.id === dataset);
    const { folder, dataset: table } = findDataset(scope, dataset);
    if (!recorded || table.table === null || !isCollection(recorded.address))
      throw new ProblemError({ code: 'wrong-use', message: 'It is no copy of a collection: nobody wrote down that it came from one.' });
    const { origin, address, usedBy } = recorded;
    const crs = table.crs?.code ?? null;
    return { path: join(folder, table.group.path), table: table.table, address, degrees: origin.edition?.degrees ?? null, crs, usedBy };
  },
  'compare-copy': ({ id, usedBy, file, ...input }: TaskBase & { id: string; usedBy: number; file: string }): NewerDataset =>
    comparedWith(findDataset(scopeOf(input, true), id), datasetsOfFile(file)[0]!, id, usedBy),
  'copy-features': async (
    input: { readonly order: CopyOrder; readonly hosts: readonly string[] },
    { progress }: TaskContext,
  ): Promise<Copied> => {
    const hosts = new Set(input.hosts);
    const wire = new Wire(() => hosts);
    try {
      return await copyFeatures(wire, input.order, progress);
    } finally {
      await wire.close();
    }
  },
} satisfies TaskTable;

export const serviceOfLayer = (layer: ServiceLayer): string => serviceAddress(layer.href);
