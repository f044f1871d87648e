import {
  kindOfAddress,
  layerNamesOf,
  ProblemError,
  serviceAddress,
  type PictureRequest,
  type ServiceItem,
  type ServiceTree,
  type TileAt,
} from '@rootmap/core';
import type {
  FindServiceRequest,
  FoundServiceView,
  ServiceFeatures,
  ServiceLayerView,
  ServiceSearchRequest,
  ServiceSearchView,
  ServiceSignInRequest,
  ServicesView,
  ServiceTreeView,
  ServiceView,
} from '@rootmap/core/contract';
import type { ServiceDesk } from '../online/service-desk.js';
import { MOST_KEPT_BYTES } from '../online/kept-answers.js';
import { placeNameOf } from '../project/scope.js';
import { serviceOfLayer, type ProjectServices } from '../tasks/service-tasks.js';
import type { TaskBase } from '../tasks/task-base.js';
import { noService } from '../wire/wire-problem.js';
import type { Ports } from './ports.js';

/** Which services a project has is looked up again after this long, so that the tiles of a map do not each ask for it. */
const LINKED_MS = 2000;
const FAILURE_MS = 10_000;

/** What people do with linked services: find, ask, browse, draw. */
export class OnlineService {
  private readonly moved = new Map<string, string>();
  private readonly asking = new Map<string, Promise<void>>();
  /** Why a service did not tell what it offers, for a while. */
  private readonly failures = new Map<string, string>();
  private readonly linked = new Map<string, { atMs: number; of: Promise<{ urls: ReadonlySet<string>; place: string }> }>();

  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'projects' | 'places' | 'jobs' | 'onBug'>,
    private readonly desk: ServiceDesk,
  ) {}

  private async ofProject(key: string): Promise<ProjectServices & { readonly place: string }> {
    const base = await this.ports.projects.base(key);
    return { ...(await this.ports.pool.run('project-services', base)), place: this.placeOf(base) };
  }

  private placeOf(base: Pick<TaskBase, 'root'>): string {
    return placeNameOf(base.root, this.ports.places.opened());
  }

  async view(key: string): Promise<ServicesView> {
    const { linked, layers, place } = await this.ofProject(key);
    const asked = this.desk.asked();
    const view = (url: string, name: string | null, kind: ServiceView['kind']): ServiceView => {
      const service = serviceAddress(url);
      const known = asked.get(service);
      return {
        name,
        kind,
        url,
        asked: known ? { atMs: known.atMs, answered: known.answered, okMs: known.okMs, why: known.why } : null,
        signIn: this.desk.signInKind(url),
        usedBy: layers.filter((l) => serviceOfLayer(l) === service),
        movedTo: this.moved.get(service) ?? null,
      };
    };
    const known = new Set(linked.map((s) => serviceAddress(s.url)));
    const others = [...new Set(layers.map(serviceOfLayer))].filter((url) => !known.has(url));
    return {
      services: [...linked.map((s) => view(s.url, s.name, s.kind)), ...others.map((url) => view(url, null, null))],
      place,
      hosts: [...this.desk.hosts.for(place)],
      kept: { bytes: this.desk.kept.total(), limitBytes: MOST_KEPT_BYTES },
    };
  }

  /** Lets a host of one's own network be asked for projects in the place of this one. */
  async allow(key: string, host: string, allowed: boolean): Promise<void> {
    await this.desk.hosts.allow(this.placeOf(await this.ports.projects.base(key)), host, allowed);
  }

  /** What stands at an address; nothing is linked yet. What was given to sign in is kept, sealed, when it was of use. */
  async find(key: string, { address, signIn }: FindServiceRequest, signal: AbortSignal): Promise<FoundServiceView> {
    const place = this.placeOf(await this.ports.projects.base(key));
    const found = await this.desk.find(place, address, signIn, signal);
    if (found.signIn) await this.desk.signIn(found.url, found.signIn);
    await this.desk.learn(place, found);
    const { url, tree } = found;
    return {
      url,
      kind: tree.kind,
      title: tree.title,
      description: tree.description,
      publisher: tree.publisher,
      items: tree.items.filter((i) => i.name !== '').length,
      more: tree.more,
      isSignedIn: found.signIn !== null,
    };
  }

  /** Asks some linked services again, all at the same time. */
  async ask(key: string, urls: readonly string[]): Promise<ServicesView> {
    const { linked, place } = await this.ofProject(key);
    await Promise.all(
      linked
        .filter((s) => urls.length === 0 || urls.includes(s.url))
        .map(async (s) => {
          const { movedTo } = await this.desk.ask(place, s.url, s.kind);
          if (movedTo === null) this.moved.delete(serviceAddress(s.url));
          else this.moved.set(serviceAddress(s.url), movedTo);
        }),
    );
    return this.view(key);
  }

  async tree(key: string, url: string, anew: boolean, signal: AbortSignal): Promise<ServiceTreeView> {
    const { linked, layers, place } = await this.ofProject(key);
    const service = linked.find((s) => s.url === url);
    if (!service) throw noService(new URL(url).host, 'not-linked');
    const { tree, readMs } = await this.desk.tree(place, url, service.kind, anew, signal);
    const usedBy: Record<string, string[]> = {};
    for (const l of layers)
      if (serviceOfLayer(l) === serviceAddress(url))
        for (const name of layerNamesOf(l.href)) (usedBy[name] ??= []).push(`${l.title} (${l.mapTitle})`);
    return { tree, readMs, usedBy };
  }

  /** What a linked server finds by words in its catalogues. */
  async search(key: string, { url, words }: ServiceSearchRequest, signal: AbortSignal): Promise<ServiceSearchView> {
    const { linked, place } = await this.ofProject(key);
    if (!linked.some((s) => s.url === url)) throw noService(new URL(url).host, 'not-linked');
    return this.desk.search(place, url, words, signal);
  }

  async signIn({ url, signIn }: ServiceSignInRequest): Promise<void> {
    await this.desk.signIn(url, signIn);
  }

  /** The place of the project. Throws unless the server of a layer is linked to it. */
  private async checkLinked(key: string, layer: string): Promise<string> {
    const service = serviceAddress(layer);
    const known = this.linked.get(key);
    const isFresh = known && Date.now() - known.atMs <= LINKED_MS;
    let { urls, place } = isFresh ? await known.of : await this.lookUpLinked(key);
    if (isFresh && !urls.has(service)) ({ urls, place } = await this.lookUpLinked(key)); // it may have been linked just now
    if (!urls.has(service)) throw noService(new URL(layer).host, 'not-linked');
    return place;
  }

  private lookUpLinked(key: string): Promise<{ urls: ReadonlySet<string>; place: string }> {
    const of = this.ofProject(key).then(({ linked, place }) => ({ urls: new Set(linked.map((s) => serviceAddress(s.url))), place }));
    this.linked.set(key, { atMs: Date.now(), of });
    return of;
  }

  async picture(key: string, layer: string, request: PictureRequest): Promise<Buffer> {
    return this.desk.mapPicture(await this.checkLinked(key, layer), layer, request);
  }
  async tile(key: string, layer: string, at: TileAt): Promise<Buffer | null> {
    return this.desk.tile(await this.checkLinked(key, layer), layer, at);
  }
  async features(key: string, layer: string, box: readonly number[]): Promise<ServiceFeatures> {
    return this.desk.features(await this.checkLinked(key, layer), layer, box);
  }

  /** What a linked server tells of a layer. */
  async itemOf(key: string, layer: string): Promise<{ item: ServiceItem | null; title: string; publisher: string | null }> {
    const { linked, place } = await this.ofProject(key);
    const service = linked.find((s) => serviceAddress(s.url) === serviceAddress(layer));
    if (!service) throw noService(new URL(layer).host, 'not-linked');
    const { tree } = await this.desk.tree(place, service.url, service.kind, false);
    return { item: itemIn(tree, layer), title: service.name, publisher: tree.publisher };
  }

  /** What a map needs to know to draw its layers. It comes at once: a server of which nothing is known is asked behind it. */
  async layers(key: string, hrefs: readonly string[]): Promise<ServiceLayerView[]> {
    const { linked, place } = await this.ofProject(key);
    const kept = new Map<string, ReturnType<ServiceDesk['keptTree']>>(); // a tree may be large: it is read once for all of its layers
    return hrefs.map((href): ServiceLayerView => {
      const base = { href, kind: kindOfAddress(href), crs: [], degrees: null, attribution: null };
      const service = linked.find((s) => serviceAddress(s.url) === serviceAddress(href));
      const host = new URL(href).host;
      if (!service) return { ...base, state: 'failed', why: noService(host, 'not-linked').message };
      if (base.kind === null)
        return { ...base, state: 'failed', why: noService(host, 'no-map-server', 'the layer does not say what is to be drawn').message };
      const known = kept.get(service.url) ?? this.desk.keptTree(place, service.url);
      kept.set(service.url, known);
      const { tree, isOld } = known;
      const failure = this.failures.get(service.url) ?? null;
      if (isOld && !this.asking.has(service.url) && failure === null) this.askBehind(place, service);
      if (!tree) return { ...base, state: failure === null ? 'asking' : 'failed', why: failure };
      const item = itemIn(tree, href);
      return {
        ...base,
        state: 'known',
        why: null,
        crs: item?.crs ?? [],
        degrees: item?.degrees ?? null,
        attribution: item?.attribution ?? null,
      };
    });
  }

  private askBehind(place: string, { url, kind }: ProjectServices['linked'][number]): void {
    const work = this.desk.tree(place, url, kind, false).then(
      () => undefined,
      (error: unknown) => {
        if (!(error instanceof ProblemError)) return this.ports.onBug(error);
        this.failures.set(url, error.message);
        setTimeout(() => this.failures.delete(url), FAILURE_MS).unref(); // then it is asked again
      },
    );
    this.asking.set(
      url,
      work.finally(() => this.asking.delete(url)),
    );
  }
}

/** What a layer draws of all that its server offers. */
function itemIn(tree: ServiceTree, layer: string): ServiceItem | null {
  const [name] = layerNamesOf(layer);
  return (tree.kind === 'tiles' ? tree.items[0] : tree.items.find((i) => i.name === name)) ?? null;
}
