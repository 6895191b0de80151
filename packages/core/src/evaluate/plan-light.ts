/** Light of the board in a plan: groups added with their gains, and what lights elements by it. */
import type { Factor, Relit, Sum, Summand } from '../layers/define.ts';
import { groupsOf, mixedGroups } from '../light/board.ts';
import { type LightKind, lightKind } from '../light/names.ts';
import { elementTerms, FLOOR, partInSum } from '../light/relit.ts';
import type { LightMix, Source, TazzelDocument } from '../model/model.ts';
import { findSource, layersInOrder } from '../model/query.ts';
import type { PlanGraph } from './plan-graph.ts';

export interface LightPlanning {
  /** An element is going to be read; false if it cannot be. */
  take(sourceId: string): boolean;
  /** The picture of a node without its grain. */
  denoised(node: number, strengthPercent: number): number;
}

const ALL = [1, 1, 1] as const;

export class PlannedLight {
  /** What elements are multiplied with; undefined before it is asked for. */
  #ratio: number | null | undefined;

  constructor(
    readonly document: TazzelDocument,
    readonly graph: PlanGraph,
    readonly planning: LightPlanning,
  ) {}

  /** All light groups in a mix, or some. Those that are off are not even read. */
  mixed(mix: LightMix, isMeant: (group: Source) => boolean = () => true): Sum {
    const summands = mixedGroups(this.document, mix).flatMap(({ source, values, weight: gain }): Summand[] => {
      const factor = isMeant(source) && gain.some((value) => value !== 0) ? this.#factor(source.id) : null;
      if (!factor) return [];
      if (values.denoisePercent === 0) return [{ factors: [factor], gain }];
      const run = this.graph.begin(null);
      this.#push(run, { kind: 'sum', summands: [{ factors: [factor], gain: ALL }], plus: 0 }, 'normal');
      return [{ factors: [{ from: { kind: 'picture', node: this.planning.denoised(this.graph.cut(run), values.denoisePercent) }, scale: null, load: 'as-is' }], gain }];
    });
    return { kind: 'sum', summands, plus: 0 };
  }

  /** Light of some kinds of groups, and of all, as nodes of the plan: as mixed where the light board is in the picture, else as rendered. Null without such groups. */
  ofKinds(kinds: readonly LightKind[]): { readonly some: number; readonly all: number } | null {
    const isOf = (group: Source) => kinds.includes(lightKind(group));
    if (!groupsOf(this.document).some(isOf)) return null;
    const isMixed = layersInOrder(this.document).some(({ layer }) => layer.visible && layer.kind === 'picture' && (layer.type === 'light' || layer.params.isRelit === true));
    const mix = isMixed ? this.document.light.mix : [];
    const [some, all] = [this.mixed(mix, isOf), this.mixed(mix)].map((sum) => {
      const run = this.graph.begin(null);
      this.#push(run, sum, 'normal');
      return this.graph.cut(run);
    });
    return { some, all };
  }

  /** What makes an element its part of the mix on the board. */
  relit(sourceId: string): Relit | null {
    const plus = partInSum(this.document, sourceId);
    if (plus === null) return null;
    this.#ratio ??= this.#makeRatio();
    return this.#ratio === null ? null : { node: this.#ratio, plus };
  }

  /** The mix over the sum of the elements: one picture for all of them. */
  #makeRatio(): number | null {
    const mix = this.mixed(this.document.light.mix);
    const summands = elementTerms(this.document).flatMap(({ sourceIds }): Summand[] => {
      const factors = sourceIds.map((id) => this.#factor(id));
      return factors.every((factor) => factor !== null) ? [{ factors, gain: ALL }] : [];
    });
    if (summands.length === 0) return null;
    const run = this.graph.begin(null);
    this.#push(run, mix, 'normal');
    this.#push(run, { kind: 'sum', summands, plus: FLOOR }, 'divide');
    return this.graph.cut(run);
  }

  #push(run: Parameters<PlanGraph['push']>[0], from: Sum, blend: string): void {
    this.graph.push(run, { kind: 'layer', layerId: '', from, load: 'as-is', actions: [], blend, zone: 'scene', opacity: 1, mask: null });
  }

  /** Light of an element; null if it cannot be read. */
  #factor(sourceId: string): Factor | null {
    const source = findSource(this.document, sourceId);
    if (!source || !this.planning.take(sourceId)) return null;
    const { scale, offset, encoding } = source;
    return { from: { kind: 'source', sourceId }, scale: scale === 1 && offset === 0 ? null : { scale, offset }, load: encoding === 'display' ? 'to-light' : 'as-is' };
  }
}
