/**
 * A folder tree as nodes that keep their identity whatever they are called and wherever they are, so that changes can be
 * replayed in part. Shares no code with what it judges.
 */
interface Node {
  name: string;
  parent: string;
  /** Null: a folder. */
  content: string | null;
  mode: number;
  isGone: boolean;
  /** A folder whose making was undone: there as long as something is in it. */
  isGhost?: boolean;
}

/** One thing that is done. `was`: what it found, so that it can be told whether it still can be done. */
export type Act =
  | { readonly act: 'write'; readonly node: string; readonly content: string; readonly was: string }
  | {
      readonly act: 'create';
      readonly how: 'write' | 'install';
      readonly id: string;
      readonly parent: string;
      readonly name: string;
      readonly content: string;
    }
  | {
      readonly act: 'copy';
      readonly how: 'copy' | 'install';
      readonly from: string;
      readonly top: string;
      readonly nodes: readonly (readonly [string, Readonly<Node>])[];
    }
  | { readonly act: 'folder'; readonly id: string; readonly parent: string; readonly name: string }
  | { readonly act: 'move'; readonly node: string; readonly parent: string; readonly name: string; readonly was: string }
  | { readonly act: 'trash'; readonly node: string; readonly was: string }
  | { readonly act: 'mode'; readonly node: string; readonly mode: number; readonly was: string };

const ROOT = 'root';
const MODES = [0o644, 0o444, 0o600, 0o640];
type Random = () => number;

export class ModelTree {
  private constructor(private readonly nodes: Map<string, Node>) {}

  /** A few folders in each other with a few files. */
  static random(random: Random): ModelTree {
    const tree = new ModelTree(new Map([[ROOT, { name: '', parent: '', content: null, mode: 0o755, isGone: false }]]));
    const folders = [ROOT];
    for (let i = 0; i < 3; i++) {
      const parent = folders[Math.floor(random() * folders.length)]!;
      tree.nodes.set(`d${i}`, { name: `d${i}`, parent, content: null, mode: 0o755, isGone: false });
      folders.push(`d${i}`);
    }
    for (let i = 0; i < 7; i++) {
      const parent = folders[Math.floor(random() * folders.length)]!;
      tree.nodes.set(`f${i}`, { name: `f${i}`, parent, content: `first ${i}`, mode: 0o644, isGone: false });
    }
    return tree;
  }

  copy(): ModelTree {
    return new ModelTree(new Map([...this.nodes].map(([id, node]) => [id, { ...node }])));
  }

  pathOf(id: string): string {
    const node = this.nodes.get(id)!;
    if (id === ROOT) return '';
    const above = this.pathOf(node.parent);
    return above === '' ? node.name : `${above}/${node.name}`;
  }

  contentOf = (id: string): string => this.nodes.get(id)!.content!;

  private isThere(id: string): boolean {
    const node = this.nodes.get(id);
    return node !== undefined && !node.isGone && (id === ROOT || this.isThere(node.parent));
  }

  private isGhost = (id: string): boolean => this.nodes.get(id)!.isGhost === true;

  /** A ghost is there for what is in it. */
  private isSolid(id: string): boolean {
    return !this.isGhost(id) || this.there('any').some((o) => this.isBelow(o, id));
  }

  private there(wanted: 'file' | 'folder' | 'any'): string[] {
    return [...this.nodes.keys()].filter(
      (id) =>
        id !== ROOT &&
        this.isThere(id) &&
        !this.isGhost(id) &&
        (wanted === 'any' || (this.nodes.get(id)!.content === null) === (wanted === 'folder')),
    );
  }

  files(): Record<string, string> {
    return Object.fromEntries(
      this.there('file').map((id) => [this.pathOf(id), `${this.contentOf(id)} ${this.nodes.get(id)!.mode.toString(8)}`]),
    );
  }

  folders = (): string[] => this.there('folder').map((id) => this.pathOf(id));

  private isFree(parent: string, name: string): boolean {
    return ![...this.nodes].some(([id, n]) => id !== ROOT && !n.isGone && this.isSolid(id) && n.parent === parent && n.name === name);
  }

  /** All that a later change could have altered of something, itself and what is in it. */
  private seal(id: string, isDeep: boolean): string {
    const node = this.nodes.get(id)!;
    const inner = isDeep
      ? this.there('any')
          .filter((o) => this.isBelow(o, id))
          .sort()
      : [];
    return JSON.stringify([node.content, node.mode, node.parent, node.name, inner.map((o) => this.seal(o, false))]);
  }

  private isBelow(id: string, folder: string): boolean {
    for (let at = this.nodes.get(id)!.parent; at !== ''; at = this.nodes.get(at)!.parent) if (at === folder) return true;
    return false;
  }

  private sealFor(act: 'write' | 'move' | 'trash' | 'mode', id: string): string {
    const node = this.nodes.get(id)!;
    if (act === 'trash') return this.seal(id, true);
    if (act === 'move') return JSON.stringify([node.parent, node.name]);
    return JSON.stringify(act === 'write' ? node.content : node.mode);
  }

  /** Why an act cannot be done any more; null: it can. */
  private why(act: Act): string | null {
    if (act.act === 'create' || act.act === 'folder') {
      if (!this.isThere(act.parent)) return 'no folder';
      return this.isFree(act.parent, act.name) ? null : 'taken';
    }
    if (act.act === 'copy') {
      const top = act.nodes[0]![1];
      if (!this.isThere(top.parent)) return 'no folder';
      return this.isFree(top.parent, top.name) ? null : 'taken';
    }
    if (!this.isThere(act.node)) return 'gone';
    if (this.sealFor(act.act, act.node) !== act.was) return 'other than it was';
    if (act.act !== 'move') return null;
    if (act.parent === act.node || (this.nodes.has(act.parent) && this.isBelow(act.parent, act.node))) return 'into itself';
    if (!this.isThere(act.parent)) return 'no folder';
    return this.isFree(act.parent, act.name) ? null : 'taken';
  }

  apply(act: Act): void {
    const fresh = { mode: 0o644, isGone: false };
    switch (act.act) {
      case 'write':
        this.nodes.get(act.node)!.content = act.content;
        break;
      case 'create':
        this.nodes.set(act.id, { ...fresh, name: act.name, parent: act.parent, content: act.content });
        break;
      case 'folder':
        this.nodes.set(act.id, { ...fresh, name: act.name, parent: act.parent, content: null });
        break;
      case 'copy':
        for (const [id, node] of act.nodes) this.nodes.set(id, { ...node });
        break;
      case 'move':
        Object.assign(this.nodes.get(act.node)!, { parent: act.parent, name: act.name });
        break;
      case 'trash':
        this.nodes.get(act.node)!.isGone = true;
        break;
      case 'mode':
        this.nodes.get(act.node)!.mode = act.mode;
        break;
    }
  }

  /** What is left of acts that were undone: folders, for as long as something is in them. */
  leave(acts: readonly Act[]): void {
    for (const act of acts)
      if (act.act === 'folder') {
        this.apply(act);
        this.nodes.get(act.id)!.isGhost = true;
      }
  }

  /** Does them in their order; at the first that cannot be done says why. */
  tryAll(acts: readonly Act[]): string | null {
    for (const act of acts) {
      const why = this.why(act);
      if (why !== null) return `${act.act}: ${why}`;
      this.apply(act);
    }
    return null;
  }

  /** A change that can be done now: one to three acts, writes first. `name` makes what is new in it unlike all else. */
  invent(random: Random, name: string): Act[] {
    const tree = this.copy();
    const pick = <T>(from: readonly T[]): T => from[Math.floor(random() * from.length)]!;
    const acts: Act[] = [];
    let count = 0;
    const add = (act: Act): void => {
      tree.apply(act);
      acts.push(act);
    };
    const folder = (not?: string): string =>
      pick([ROOT, ...tree.there('folder').filter((id) => id !== not && (not === undefined || !tree.isBelow(id, not)))]);
    /** Often a name that something has or had elsewhere, so that what was left free is taken. */
    const nameIn = (parent: string): string => {
      const used = pick([...tree.nodes.values()]).name;
      return random() < 0.5 && used !== '' && tree.isFree(parent, used) ? used : `n${name}-${count++}`;
    };
    const write = (): void => {
      const files = tree.there('file');
      if (files.length === 0) return;
      const node = pick(files);
      add({ act: 'write', node, content: `written ${name}-${count++}`, was: tree.sealFor('write', node) });
    };
    const create = (how: 'write' | 'install'): void => {
      const parent = folder();
      const id = `c${name}-${count++}`;
      add({ act: 'create', how, id, parent, name: nameIn(parent), content: `made ${id}` });
    };
    const move = (into?: string): void => {
      const all = tree.there('any').filter((id) => id !== into && (into === undefined || !tree.isBelow(into, id)));
      if (all.length === 0) return;
      const node = pick(all);
      const parent = into ?? folder(node);
      add({ act: 'move', node, parent, name: nameIn(parent), was: tree.sealFor('move', node) });
    };
    const trash = (node: string): void => add({ act: 'trash', node, was: tree.sealFor('trash', node) });
    const ways: readonly (() => void)[] = [
      write,
      write,
      () => create('write'),
      () => create('install'),
      () => create('install'),
      () => {
        const from = pick(tree.there('any'));
        const parent = folder(from);
        const inner = tree.there('any').filter((id) => tree.isBelow(id, from));
        const number = count++;
        const idOf = (id: string): string => `k${name}-${number}-${id}`;
        const top = idOf(from);
        const nodes = [from, ...inner].map((id): [string, Node] => {
          const node = tree.nodes.get(id)!;
          return [idOf(id), { ...node, ...(id === from ? { parent, name: nameIn(parent) } : { parent: idOf(node.parent) }) }];
        });
        add({ act: 'copy', how: random() < 0.4 ? 'install' : 'copy', from, top, nodes });
      },
      () => {
        const parent = folder();
        const id = `o${name}-${count++}`;
        add({ act: 'folder', id, parent, name: nameIn(parent) });
        if (random() < 0.7) move(id);
      },
      () => {
        if (random() < 0.5) write();
        move();
      },
      move,
      () => trash(pick(tree.there('any'))),
      () => {
        const node = pick(tree.there('file'));
        const mode = pick(MODES.filter((m) => m !== tree.nodes.get(node)!.mode));
        add({ act: 'mode', node, mode, was: tree.sealFor('mode', node) });
      },
      () => {
        // A file is replaced: the old one goes, a new one takes its name.
        const node = pick(tree.there('file'));
        const { parent, name: called } = tree.nodes.get(node)!;
        trash(node);
        const id = `r${name}-${count++}`;
        add({ act: 'create', how: 'install', id, parent, name: called, content: `replaced ${id}` });
      },
    ];
    while (acts.length === 0)
      if (tree.there('file').length > 0) pick(ways)();
      else create('write');
    return acts;
  }
}
