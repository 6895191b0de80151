/** Pixels of any picture of a graph: what is kept is asked for, everything else is made on the way. */
import { type Region, tilesIn } from '../raster/region.ts';
import type { Backend } from './backend.ts';
import { type Graph, insideOf, restOf } from './graph.ts';
import type { Tools } from './kinds/define.ts';
import { kindOf } from './kinds/registry.ts';
import { extended, joined, type Pixels } from './pixels.ts';
import type { Evaluator, Inputs } from './run.ts';

export interface GraphInputs extends Inputs {
  /** A tile of a kept picture, which must have been made. */
  kept(picture: number, tile: Region): Pixels;
}

/** A result that some of a picture's steps have led to already: only the others are computed. */
export interface Start {
  readonly steps: number;
  readonly pixels: Pixels;
}

export class Drawing {
  /** Steps that were computed. */
  stepsRun = 0;

  readonly #tools: Tools;

  constructor(
    readonly graph: Graph,
    readonly backend: Backend,
    readonly evaluator: Evaluator,
    readonly inputs: GraphInputs,
  ) {
    this.#tools = {
      backend,
      read: (picture, region) => this.#read(picture, region),
      mask: (key) => inputs.mask(key),
      run: (task) => {
        const { pixels, stepsRun } = evaluator.run({ ...task, level: graph.level, inputs });
        this.stepsRun += stepsRun;
        return pixels;
      },
    };
  }

  /** A region inside a picture. It lies in the backend's arena. */
  pixels(picture: number, region: Region, start: Start | null = null): Pixels {
    const { arena } = this.backend;
    const { mark } = arena;
    for (;;) {
      const { moves } = arena;
      const { stepsRun } = this;
      try {
        const pixels = this.#make(picture, region, start);
        if (arena.moves === moves) return pixels;
      } catch (error) {
        if (arena.moves === moves) throw error;
      }
      // The backend's memory has grown and what was made in it is lost. There is room enough now.
      this.stepsRun = stepsRun;
      arena.release(mark);
    }
  }

  #make(picture: number, region: Region, start: Start | null): Pixels {
    const { work, planes } = this.graph.pictures[picture];
    if (start && work.kind === 'points') {
      const { steps, nodes } = restOf(work, start.steps);
      const pictures = new Map(Object.entries(nodes).map(([node, read]) => [Number(node), this.#read(read, region)]));
      return this.#tools.run({ region, steps, base: start.pixels, pictures });
    }
    return kindOf(work).make(work as never, region, planes, this.#tools);
  }

  #read(picture: number, region: Region): Pixels {
    const { domain, isKept } = this.graph.pictures[picture];
    const inside = insideOf(domain, region);
    const pixels = isKept ? joined(inside, tilesIn(domain, inside).map((tile) => this.inputs.kept(picture, tile)), this.backend.arena) : this.#make(picture, inside, null);
    return extended(pixels, region, this.backend.arena);
  }
}
