/** The pictures of a plan while it is being made: runs of steps that are cut where something reads across pixels, and keys for everything. */
import { sourceIdentity } from '../model/identity.ts';
import type { Source, TazzelDocument } from '../model/model.ts';
import { findSource } from '../model/query.ts';
import type { Region } from '../raster/region.ts';
import { digest } from '../digest.ts';
import type { Place, PlanNode, Step } from './steps.ts';

/** A points node that is being planned. */
export interface Run {
  node: number;
  base: number | null;
  readonly domain: Region | null;
  steps: Step[];
  keys: string[];
}

export const placeOf = ({ node, steps }: Run): Place => ({ node, steps: steps.length });
export const isEmpty = ({ base, steps }: Run): boolean => base === null && steps.length === 0;

type WithoutKey<N> = N extends { readonly key: string } ? Omit<N, 'key'> : never;
type Unkeyed = WithoutKey<PlanNode>;

export class PlanGraph {
  readonly nodes: PlanNode[] = [];
  constructor(readonly document: TazzelDocument) {}

  /** The key of nothing at all: how large it is. */
  #keyOfNothing(domain: Region | null): string {
    const { width, height } = this.document.size;
    return digest(`${width}×${height}${domain ? ` ${domain.x} ${domain.y} ${domain.width} ${domain.height}` : ''}`);
  }

  /** A new run, on another picture or on nothing. `domain` is where there are pixels, in pixels of the full picture. */
  begin(base: number | null, domain: Region | null = null): Run {
    const run: Run = { node: -1, base: null, domain, steps: [], keys: [] };
    this.goOnFrom(run, base);
    return run;
  }

  /** The run is that picture from here on, and whatever it has made is let go. */
  goOnFrom(run: Run, base: number | null): void {
    Object.assign(run, { node: this.nodes.length, base, steps: [], keys: [base === null ? this.#keyOfNothing(run.domain) : this.keyOf(base)] });
    this.nodes.push({ kind: 'points', base, domain: run.domain, steps: run.steps, keys: run.keys });
  }

  /** What the run has made so far, as a picture that others may read; it goes on from there. */
  cut(run: Run): number {
    if (run.steps.length === 0 && run.base !== null) return run.base;
    const made = run.node;
    this.goOnFrom(run, made);
    return made;
  }

  push(run: Run, step: Step): void {
    run.keys.push(this.#keyFor(run.keys[run.keys.length - 1], step));
    run.steps.push(step);
  }

  /** Takes back the last step. */
  pop(run: Run): void {
    run.steps.pop();
    run.keys.pop();
  }

  add(node: Unkeyed): number {
    this.nodes.push({ ...node, key: this.#keyFor('', node) } as PlanNode);
    return this.nodes.length - 1;
  }

  keyOf(node: number): string {
    const at = this.nodes[node];
    return at.kind === 'points' ? at.keys[at.keys.length - 1] : at.key;
  }

  /** Keys are made of parameters and of what is read, not of names, ids and prepared tables. */
  #keyFor(before: string, what: unknown): string {
    return digest(
      JSON.stringify([before, what], (name, value) => {
        if (name === 'node' || name === 'input') return this.keyOf(value);
        if (name === 'sourceId') return sourceIdentity(findSource(this.document, value) as Source);
        return name === 'layerId' || name === 'prepared' ? undefined : value;
      }),
    );
  }
}
