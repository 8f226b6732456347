/** An answer as a tree whose nodes come from the server as they are opened; only the rows in sight are looked up. */
import {
  answerNodes,
  searchAnswer,
  type AnswerAt,
  type AnswerNode,
  type Nodes,
  type Searched,
} from '../api/client';
import { EACH, formatPointer, type Segment, type Steps } from '../domain/jsonpath';

const WINDOW = 200;
/** Members of an object that are looked through for a name, window by window. */
const MOST_WINDOWS = 600;

export interface TreeNode {
  info: AnswerNode;
  steps: Steps;
  parent: TreeNode | null;
  open: boolean;
  /** Children that are here, by their index. */
  children: Map<number, TreeNode>;
  asked: Set<number>;
}

export type LoadNodes = (pointer: string, start: number, count: number) => Promise<Nodes>;

export class AnswerTree {
  /** Changes with whatever is drawn. */
  version = $state(0);
  problem = $state.raw<unknown>(null);
  root = $state.raw<TreeNode | null>(null);
  found = $state.raw<(Searched & { at: number; text: string }) | null>(null);

  constructor(
    private readonly load: LoadNodes,
    private readonly look: (text: string) => Promise<Searched>,
  ) {}

  /** The tree of an answer. */
  static of(at: AnswerAt): AnswerTree {
    return new AnswerTree(
      (pointer, start, count) => answerNodes(at, pointer, start, count),
      (text) => searchAnswer(at, text),
    );
  }

  /** Fetch the answer itself and open the way to its records. */
  async begin(records: readonly Segment[] | null): Promise<void> {
    try {
      const found = await this.load('', 0, WINDOW);
      const root = makeNode(found.node, [], null);
      this.#put(root, 0, found);
      root.open = true;
      this.root = root;
      this.version++;
      await this.#openRecords(root, records ?? []);
    } catch (error) {
      this.problem = error;
    }
  }

  /** Open the way to the first record, and the record itself with what lies in it. */
  async #openRecords(root: TreeNode, records: readonly Segment[]): Promise<void> {
    let node = root;
    for (const segment of records) {
      await this.#openNode(node);
      const child =
        segment === EACH ? await this.#child(node, 0) : await this.#named(node, segment as string | number);
      if (!child) return;
      node = child;
    }
    await this.#openDeep(node, 3);
  }

  async #openDeep(node: TreeNode, depth: number): Promise<void> {
    if (!isTree(node) || depth < 0) return;
    await this.#openNode(node);
    const some = node.info.kind === 'list' ? 1 : Math.min(60, node.info.size);
    for (let at = 0; at < some; at++) {
      const child = await this.#child(node, at);
      if (child && isTree(child)) await this.#openDeep(child, depth - 1);
    }
  }

  async #openNode(node: TreeNode): Promise<void> {
    if (!isTree(node)) return;
    await this.#window(node, 0);
    node.open = true;
    this.version++;
  }

  async #window(node: TreeNode, number: number): Promise<void> {
    if (node.asked.has(number)) return;
    node.asked.add(number);
    this.#put(node, number, await this.load(formatPointer(node.steps), number * WINDOW, WINDOW));
  }

  #put(node: TreeNode, number: number, found: Nodes): void {
    node.asked.add(number);
    found.children.forEach((info, at) => {
      const index = number * WINDOW + at;
      node.children.set(index, makeNode(info, [...node.steps, info.name ?? index], node));
    });
    this.version++;
  }

  async #child(node: TreeNode, index: number): Promise<TreeNode | undefined> {
    if (index >= node.info.size) return undefined;
    await this.#window(node, Math.floor(index / WINDOW));
    return node.children.get(index);
  }

  async #named(node: TreeNode, name: string | number): Promise<TreeNode | undefined> {
    if (typeof name === 'number') return this.#child(node, name < 0 ? node.info.size + name : name);
    for (let number = 0; number * WINDOW < node.info.size && number < MOST_WINDOWS; number++) {
      await this.#window(node, number);
      for (const child of node.children.values()) if (child.info.name === name) return child;
    }
    return undefined;
  }

  // Rows -----------------------------------------------------------------------------------------------------

  /** Whether a node is open; nodes themselves do not tell when they change. */
  isOpen(node: TreeNode): boolean {
    void this.version;
    return node.open;
  }

  /** How many rows are drawn in all. */
  get rows(): number {
    void this.version;
    return this.root ? 1 + this.#inside(this.root) : 0;
  }

  #inside(node: TreeNode): number {
    if (!node.open) return 0;
    let total = node.info.size;
    for (const child of node.children.values()) if (child.open) total += this.#inside(child);
    return total;
  }

  #opened(node: TreeNode): [number, TreeNode][] {
    return [...node.children].filter(([, child]) => child.open).sort(([a], [b]) => a - b);
  }

  /** The node in a row; while it is on its way nothing. */
  at(row: number): TreeNode | null {
    void this.version;
    return this.root ? this.#find(this.root, row) : null;
  }

  #find(node: TreeNode, row: number): TreeNode | null {
    if (row === 0) return node;
    let extra = 0;
    for (const [index, child] of this.#opened(node)) {
      const start = index + 1 + extra;
      if (row < start) break;
      const inside = this.#inside(child);
      if (row <= start + inside) return this.#find(child, row - start);
      extra += inside;
    }
    const index = row - 1 - extra;
    const child = node.children.get(index);
    if (!child) this.#window(node, Math.floor(index / WINDOW)).catch((error) => (this.problem = error));
    return child ?? null;
  }

  /** The row in which a node stands. */
  rowOf(node: TreeNode): number {
    let row = 0;
    for (let own = node; own.parent; own = own.parent) {
      const index = indexOf(own);
      row += 1 + index;
      for (const [at, child] of this.#opened(own.parent)) {
        if (at >= index) break;
        row += this.#inside(child);
      }
    }
    return row;
  }

  /** Open a node, or close it. */
  async toggle(node: TreeNode): Promise<void> {
    try {
      if (node.open) node.open = false;
      else await this.#openNode(node);
    } catch (error) {
      this.problem = error;
    }
    this.version++;
  }

  /** Open the way to a node; gives its row. */
  async reveal(steps: Steps): Promise<number | null> {
    let node = this.root;
    try {
      for (const step of steps) {
        if (!node) return null;
        await this.#openNode(node);
        node = (await this.#named(node, step)) ?? null;
      }
    } catch (error) {
      this.problem = error;
    }
    this.version++;
    return node ? this.rowOf(node) : null;
  }

  /** The row of a node that is drawn already, if it is. */
  rowOfDrawn(steps: Steps): number | null {
    let node = this.root;
    for (const step of steps) {
      if (!node?.open) return null;
      node = [...node.children.values()].find((child) => child.steps.at(-1) === step) ?? null;
    }
    return node ? this.rowOf(node) : null;
  }

  // Searching ------------------------------------------------------------------------------------------------

  /** Look for a text in names and values; gives the row of the first find. */
  async search(text: string): Promise<number | null> {
    if (!text.trim()) {
      this.found = null;
      return null;
    }
    try {
      this.found = { ...(await this.look(text)), at: 0, text };
      return await this.#toFound();
    } catch (error) {
      this.problem = error;
      return null;
    }
  }

  /** The next find, or the one before; gives its row. */
  async step(by: number): Promise<number | null> {
    const found = this.found;
    if (!found?.found.length) return null;
    this.found = { ...found, at: (found.at + by + found.found.length) % found.found.length };
    return this.#toFound();
  }

  #toFound(): Promise<number | null> {
    const one = this.found?.found[this.found.at];
    return one ? this.reveal(one.steps) : Promise.resolve(null);
  }
}

function makeNode(info: AnswerNode, steps: Steps, parent: TreeNode | null): TreeNode {
  return { info, steps, parent, open: false, children: new Map(), asked: new Set() };
}

export function isTree(node: TreeNode): boolean {
  return (node.info.kind === 'list' || node.info.kind === 'object') && node.info.size > 0;
}

function indexOf(node: TreeNode): number {
  for (const [index, child] of node.parent?.children ?? []) if (child === node) return index;
  return 0;
}
