import { locateHere, type Progress, type StoredForm, joined } from '@rootmap/core';
import type {
  AppliedView,
  LookReplacementRequest,
  MendRequest,
  PointedView,
  PointRequest,
  RejectRequest,
  ReplacementView,
  ReplaceRequest,
  SearchRequest,
} from '@rootmap/core/contract';
import { toAddress } from '../disk/native-path.js';
import type { JournalMove } from '../changes/change.js';
import type { PathsPlan } from '../project/store-paths.js';
import type { MendDecisionRepository } from '../repositories/mend-decision-repository.js';
import { KeptPages } from './kept-pages.js';
import type { Ports } from './ports.js';

/** Of the journal's moves so many, the latest, are evidence. */
const MOST_MOVES = 2000;

/** Broken layers mended, data replaced, and how layers store their paths. */
export class MendService {
  private readonly pages = new KeptPages();

  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'projects' | 'places' | 'changes' | 'publish'>,
    private readonly decisions: MendDecisionRepository,
    private readonly journal: { movesDone(most: number): JournalMove[] },
  ) {}

  private async mendBase(key: string, { search, reach }: SearchRequest, who?: string) {
    return {
      ...(await this.ports.projects.base(key, who)),
      search: search.map((f) => this.ports.places.path(f)),
      reach,
      decisions: await this.decisions.read(),
      moved: this.journal.movesDone(MOST_MOVES),
    };
  }

  /** What explains the broken layers, a `MendAnswer` as JSON; what it is on is told to everybody who shows it. */
  async view(key: string, search: SearchRequest, signal?: AbortSignal): Promise<Uint8Array> {
    const progress = ({ item: path }: Progress): void => {
      const at = locateHere(toAddress(path), this.ports.places.opened());
      this.ports.publish({ type: 'search', key, item: at ? joined([at.place, ...at.segments]) : path });
    };
    const answer = await this.ports.pool.run('mend', await this.mendBase(key, search), { progress, ...(signal ? { signal } : {}) });
    this.pages.keep(answer.pages);
    return answer.first;
  }

  /** The layers of a page, as JSON. */
  page(id: string): Uint8Array {
    return this.pages.page(id);
  }

  async apply(key: string, { choices, styles, ...search }: MendRequest, who: string): Promise<AppliedView> {
    const base = await this.mendBase(key, search, who);
    const { change, applied, accepted } = await this.ports.pool.run('plan-mend', { ...base, choices, styles });
    const done = await this.ports.changes.apply(key, base, change, applied);
    if (done.change) await this.decisions.accept(accepted, done.change.id);
    return done;
  }

  /** 'Not this one': the layer is never offered that dataset again. */
  async reject(key: string, { search, reach, ...which }: RejectRequest & SearchRequest): Promise<void> {
    await this.decisions.reject(await this.ports.pool.run('reject', { ...(await this.mendBase(key, { search, reach })), ...which }));
  }

  forgive(layers: readonly string[]): Promise<number> {
    return this.decisions.forgive(layers);
  }

  async point(key: string, { key: layer, target, ...search }: PointRequest): Promise<PointedView> {
    return this.ports.pool.run('point', { ...(await this.mendBase(key, search)), key: layer, path: this.ports.places.path(target) });
  }

  /** What giving a layer other data on purpose would mean. Reads only. */
  async replacement(key: string, { target, ...which }: LookReplacementRequest): Promise<ReplacementView> {
    return this.ports.pool.run('replacement', {
      ...(await this.ports.projects.base(key)),
      ...which,
      path: target && this.ports.places.path(target),
    });
  }

  async replaceData(key: string, { target, ...order }: ReplaceRequest, who: string): Promise<AppliedView> {
    const base = await this.ports.projects.base(key, who);
    const change = await this.ports.pool.run('plan-replace', { ...base, ...order, path: target && this.ports.places.path(target) });
    return this.ports.changes.apply(key, base, change, order.layers.length);
  }

  async paths(key: string, store: StoredForm, map: string | null): Promise<PathsPlan> {
    return this.ports.pool.run('paths', { ...(await this.ports.projects.base(key)), store, map });
  }

  async applyPaths(key: string, store: StoredForm, map: string | null, who: string): Promise<AppliedView> {
    const base = await this.ports.projects.base(key, who);
    const plan = await this.ports.pool.run('paths', { ...base, store, map });
    return this.ports.changes.apply(key, base, plan.change, plan.changes.length);
  }

  async remember(key: string, who: string): Promise<AppliedView> {
    const base = await this.ports.projects.base(key, who);
    const { change, layers } = await this.ports.pool.run('remember', base);
    return this.ports.changes.apply(key, base, change, layers);
  }
}
