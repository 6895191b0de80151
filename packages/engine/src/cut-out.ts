/** A picture that is being cut out: looked at small, written whole. */
import { type CutOutMark, levelWithin, type Size, type Source } from '@tazzel/core';
import type { Engine } from './engine.ts';
import { pictureAlone } from './outline.ts';
import { PRIORITY, type TaskOptions } from './pool.ts';

/** Each mark is answered at this size; more is written than anybody stands up in a picture. */
const [SMALL_SIDE, LARGEST_SIDE] = [800, 4096];

interface Pixels {
  readonly size: Size;
  readonly pixels: ArrayBufferLike;
}

export class CutOut {
  private constructor(
    private readonly engine: Engine,
    private readonly source: Source,
    /** The picture as it is marked: straight sRGB in bytes. */
    readonly small: Pixels,
  ) {}

  static async of(engine: Engine, source: Source, signal?: AbortSignal): Promise<CutOut> {
    return new CutOut(engine, source, await engine.flatten({ document: pictureAlone(source), kind: 'rgba8', level: levelWithin(source, SMALL_SIDE), signal }));
  }

  /** What stays of the small picture: 1 or 0 for each pixel. */
  cut(marks: readonly CutOutMark[], fromEdges: boolean, options: TaskOptions = {}): Promise<Uint8Array<ArrayBuffer>> {
    return this.engine.pool.run('cut-out', { ...this.small, marks, fromEdges }, { priority: PRIORITY.view, ...options });
  }

  /** The whole picture as a PNG whose alpha is the cut, in parts. @throws Error if nothing stays */
  async write(marks: readonly CutOutMark[], fromEdges: boolean, { signal, onProgress = () => {} }: { signal?: AbortSignal; onProgress?: (share: number) => void } = {}): Promise<Uint8Array[]> {
    const options = { signal, priority: PRIORITY.output };
    const cut = await this.cut(marks, fromEdges, options);
    if (!cut.includes(1)) throw new Error('Nothing stays: draw over what is to stay.');
    const whole = await this.engine.flatten({ document: pictureAlone(this.source), kind: 'rgba8', level: levelWithin(this.source, LARGEST_SIDE), signal, onProgress: (share) => onProgress(0.4 * share) });
    try {
      const { pixels, size } = whole;
      await this.engine.pool.run('soften-cut', { cut, small: this.small, pixels, size }, options);
      onProgress(0.7);
      return await this.engine.pool.run('write-picture', { format: 'png', values: {}, picture: { ...size, pixels, isOpaque: false } }, { ...options, leaveAtOnce: true });
    } finally {
      this.engine.giveBack(whole.pixels);
    }
  }

  /** Nobody looks at it any more. */
  end(): void {
    this.engine.giveBack(this.small.pixels);
  }
}
