/** Draws regions of a job's pictures: the kept tiles that they read are made first, each once, whoever asks for them. */
import { type Graph, graphFor, keyAt, keyAtLevel, type KeptTile, type Region, type Target, targetKey, TILE_SIZE, tilesNeeded } from '@tazzel/core';
import { allDone, type TaskOptions, type WorkerPool } from './pool.ts';
import type { Draw, Job } from './protocol.ts';
import type { Lease, TileStore } from './tile-store.ts';

export interface DrawOptions extends TaskOptions {
  /** Counts the steps that are computed for kept tiles. */
  readonly count?: { steps: number };
}

export class Drawer {
  readonly #graphs = new WeakMap<Job, Map<string, Graph>>();

  constructor(
    readonly pool: WorkerPool,
    readonly tiles: TileStore,
  ) {}

  graph(job: Job, target: Target): Graph {
    const known = this.#graphs.get(job) ?? new Map<string, Graph>();
    this.#graphs.set(job, known);
    const id = graphId(job, target);
    let graph = known.get(id);
    if (!graph) {
      graph = graphFor(job.plan, job.level, target);
      known.set(id, graph);
    }
    return graph;
  }

  /** Whether anything is kept on the way to a target. */
  needsTiles(job: Job, target: Target): boolean {
    return this.graph(job, target).pictures.some(({ isKept }) => isKept);
  }

  /** Runs a task on a region of the target's picture, when all that it reads is there. @throws Cancelled */
  draw<T>(job: Job, target: Target, region: Region, options: DrawOptions, task: (draw: Draw) => Promise<T>): Promise<T> {
    const graph = this.graph(job, target);
    return this.#withTiles(job, target, graph, graph.root, region, options, task);
  }

  /** Makes what drawing a tile after the next change of the layer in focus would read. */
  async warm(job: Job, target: Target, tile: Region, options: DrawOptions): Promise<void> {
    const graph = this.graph(job, target);
    const key = target.focus && keyAtLevel(keyAt(job.plan, target.focus), graph.level);
    const picture = graph.pictures.findIndex((each) => each.key === key && each.isKept);
    if (picture < 0) return this.draw(job, target, tile, options, async () => undefined);
    (await this.#tile(job, target, graph, { picture, tile }, options)).release();
  }

  async #withTiles<T>(job: Job, target: Target, graph: Graph, picture: number, region: Region, options: DrawOptions, task: (draw: Draw) => Promise<T>): Promise<T> {
    const start = this.#start(graph, picture, region);
    const leases: Lease[] = start ? [start.lease] : [];
    try {
      const needed = tilesNeeded(graph, picture, region, start?.steps);
      const kept = new Array<Draw['kept'][number]>(needed.length);
      await allDone(
        needed.map(async (each, i) => {
          const lease = await this.#tile(job, target, graph, each, options);
          leases.push(lease);
          kept[i] = { picture: each.picture, ...lease.tile };
        }),
      );
      return await task({ jobId: job.id, target, picture, region, kept, start: start && { steps: start.steps, ...start.lease.tile } });
    } finally {
      for (const lease of leases) lease.release();
    }
  }

  #tile(job: Job, target: Target, graph: Graph, { picture, tile }: KeptTile, options: DrawOptions): Promise<Lease> {
    const { key, planes } = graph.pictures[picture];
    return this.tiles.take(key, tile, planes, options.signal, (into) =>
      this.#withTiles(job, target, graph, picture, tile, options, async (draw) => {
        const { opaque, stepsRun } = await this.pool.run('keep', { draw, into }, options);
        if (options.count) options.count.steps += stepsRun;
        return opaque;
      }),
    );
  }

  /** The furthest result on the way to a tile that is still there. */
  #start(graph: Graph, picture: number, region: Region): { steps: number; lease: Lease } | null {
    const { work, domain } = graph.pictures[picture];
    if (work.kind !== 'points' || region.x % TILE_SIZE !== 0 || region.y % TILE_SIZE !== 0) return null;
    const [width, height] = [Math.min(TILE_SIZE, domain.width - region.x), Math.min(TILE_SIZE, domain.height - region.y)];
    if (region.width !== width || region.height !== height) return null;
    for (let steps = work.steps.length; steps > 0; steps--) {
      const lease = work.keys[steps] ? this.tiles.find(keyAtLevel(work.keys[steps], graph.level), region) : null;
      if (lease) return { steps, lease };
    }
    return null;
  }
}

/** Names a target within a job. */
export const graphId = ({ plan }: Pick<Job, 'plan'>, target: Target): string => `${targetKey(plan, target)} ${target.focus ? `${target.focus.node} ${target.focus.steps}` : ''}`;
