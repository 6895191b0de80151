/**
 * One state of the picture on its way to the screen: a canvas of the visible part at one level, filled tile by tile.
 * What was there stays visible until something newer comes, so nothing flickers.
 */
import { intersect, type PlanOptions, type Region, type Size, sizeAtLevel, stripsOf, TILE_SIZE, type TazzelDocument, tilesOf } from '@tazzel/core';
import { Cancelled, type Engine, TASKS_IN_FLIGHT } from '@tazzel/engine';

/** A canvas over a tile-aligned part of a level. */
interface Window {
  readonly level: number;
  readonly region: Region;
  readonly canvas: OffscreenCanvas;
  readonly context: OffscreenCanvasRenderingContext2D;
}

interface Wanted {
  readonly document: TazzelDocument;
  readonly options: PlanOptions;
  readonly focusLayerId: string | null;
  readonly reading: string | null;
}

/** A pass of the window, at its own level or, while things change, `coarser` times halved. */
interface Pass {
  readonly abort: AbortController;
  readonly level: number;
  readonly coarser: number;
}

/** As long as two changes may be apart and still belong to one movement. */
const MOVEMENT_MS = 600;
/** Without a change for that long, what was drawn coarsely is drawn at its own level. */
const REST_MS = 200;
/** What a pass may take while something moves: about one frame and a half. */
const BRISK_MS = 24;
/** A change by itself is waited for so long; what takes longer is seen coarsely first. */
const PATIENCE_MS = 100;
const MOST_COARSE = 2;
const LEAST_ROWS = 16;

export interface SurfaceEvents {
  onChange(): void;
  onBusy(busy: boolean): void;
  onProblems(problems: readonly string[]): void;
}

const tileName = ({ x, y }: Region) => `${x},${y}`;

function align(region: Region, size: Size): Region {
  const x = Math.floor(region.x / TILE_SIZE) * TILE_SIZE;
  const y = Math.floor(region.y / TILE_SIZE) * TILE_SIZE;
  const right = Math.min(size.width, Math.ceil((region.x + region.width) / TILE_SIZE) * TILE_SIZE);
  const bottom = Math.min(size.height, Math.ceil((region.y + region.height) / TILE_SIZE) * TILE_SIZE);
  return { x, y, width: right - x, height: bottom - y };
}

/** As many strips as workers take at once, so that all are under way before the next frame takes the interface's time. */
function shared(region: Region, workers: number): Region[] {
  const rows = Math.max(LEAST_ROWS, Math.ceil(region.height / (workers * TASKS_IN_FLIGHT)));
  return stripsOf(region, rows).map((strip) => ({ ...strip, x: region.x, y: region.y + strip.y }));
}

/** The part of a level that lies under a region of a finer one. */
function reduced({ x, y, width, height }: Region, halvings: number, size: Size): Region {
  const scale = 2 ** halvings;
  const [left, top] = [Math.floor(x / scale), Math.floor(y / scale)];
  return { x: left, y: top, width: Math.min(size.width, Math.ceil((x + width) / scale)) - left, height: Math.min(size.height, Math.ceil((y + height) / scale)) - top };
}

export class Surface {
  #window: Window | null = null;
  #wanted: Wanted | null = null;
  /** Tiles of the window that show the wanted state. */
  #fresh = new Set<string>();
  #running: Pass | null = null;
  #again = false;
  /** Changed by itself and seen coarsely: it is drawn at its own level without a rest. */
  #glimpsed: TazzelDocument | null = null;
  #isBusy = false;
  /** When the last change came, and the one before. */
  #changes: readonly [before: number, last: number] = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY];
  #rest: ReturnType<typeof setTimeout> | null = null;
  /** What a pixel of the window's own level took of late. */
  #msPerPixel = 0;

  constructor(
    readonly engine: Engine,
    readonly events: SurfaceEvents,
  ) {}

  /**
   * What to show. Tiles are renewed; a running pass is finished first, so that a drag always shows something. While it
   * changes faster than passes end, passes are coarser; a fine one that such a change makes stale is given up.
   */
  show(document: TazzelDocument, options: PlanOptions, focusLayerId: string | null, reading: string | null = null): void {
    const same = this.#wanted?.document === document && this.#wanted.options.upto === options.upto && this.#wanted.options.only === options.only && this.#wanted.reading === reading;
    this.#wanted = { document, options, focusLayerId, reading };
    if (same) return;
    this.#fresh.clear();
    this.#changes = [this.#changes[1], performance.now()];
    if (this.#running?.coarser === 0 && this.#coarser(this.#missing()) > 0) this.#running.abort.abort();
    void this.#pump();
  }

  /** Where to look: a region of the level in its own pixels. */
  look(level: number, visible: Region): void {
    if (!this.#wanted) return;
    const size = sizeAtLevel(this.#wanted.document.size, level);
    const inside = intersect(visible, { x: 0, y: 0, ...size });
    if (!inside) return;
    const region = align(inside, size);
    const old = this.#window;
    const same = old?.level === level && old.region.x === region.x && old.region.y === region.y && old.region.width === region.width && old.region.height === region.height;
    if (same) return;
    const canvas = new OffscreenCanvas(region.width, region.height);
    const context = canvas.getContext('2d') as OffscreenCanvasRenderingContext2D;
    if (old) {
      const scale = 2 ** (old.level - level);
      context.drawImage(old.canvas, old.region.x * scale - region.x, old.region.y * scale - region.y, old.region.width * scale, old.region.height * scale);
    }
    const kept = old?.level === level ? tilesOf(size, region).filter((tile) => this.#fresh.has(tileName(tile)) && contains(old.region, tile)) : [];
    this.#fresh = new Set(kept.map(tileName));
    this.#window = { level, region, canvas, context };
    if (this.#running && this.#running.level !== level) this.#running.abort.abort();
    void this.#pump();
  }

  /** The wanted state at the wanted place is complete. */
  get isComplete(): boolean {
    return this.#window !== null && this.#missing().length === 0;
  }

  #missing(): Region[] {
    if (!this.#window || !this.#wanted) return [];
    const size = sizeAtLevel(this.#wanted.document.size, this.#window.level);
    return tilesOf(size, this.#window.region).filter((tile) => !this.#fresh.has(tileName(tile)));
  }

  async #pump(): Promise<void> {
    if (this.#running) {
      this.#again = true;
      return;
    }
    const window = this.#window;
    const wanted = this.#wanted;
    const tiles = this.#missing();
    if (!window || !wanted || tiles.length === 0) return this.#setBusy(false);
    const abort = new AbortController();
    const coarser = this.#coarser(tiles);
    if (coarser > 0) this.#fresh.clear();
    const pass: Pass = { abort, level: window.level, coarser };
    this.#running = pass;
    this.#again = false;
    this.#stopResting();
    this.#setBusy(true);
    const level = window.level + coarser;
    const size = sizeAtLevel(wanted.document.size, level);
    const regions = coarser === 0 ? tiles : shared(reduced(window.region, coarser, size), this.engine.pool.size);
    const begun = performance.now();
    let pixels = 0;
    // From the middle outwards: that is where one looks.
    const middle = { x: (window.region.x + window.region.width / 2) / 2 ** coarser, y: (window.region.y + window.region.height / 2) / 2 ** coarser };
    const distance = (tile: Region) => Math.hypot(tile.x + tile.width / 2 - middle.x, tile.y + tile.height / 2 - middle.y);
    try {
      const { problems } = await this.engine.render({
        ...wanted,
        level,
        tiles: [...regions].sort((a, b) => distance(a) - distance(b)),
        signal: abort.signal,
        onTile: (region, rgba) => {
          pixels += region.width * region.height;
          if (coarser > 0) this.#placeCoarsely(region, rgba, pass);
          else this.#place(region, rgba, window.level, wanted);
        },
      });
      this.events.onProblems(problems);
    } catch (error) {
      if (!(error instanceof Cancelled)) this.events.onProblems([(error as Error).message]);
    } finally {
      this.#running = null;
      if (coarser === 0 && pixels > 0) this.#msPerPixel = (performance.now() - begun) / pixels;
    }
    if (this.#again) return this.#pump();
    if (coarser > 0 && this.#isMoving) return this.#restThenRefine();
    if (coarser > 0) {
      this.#glimpsed = wanted.document;
      return this.#pump();
    }
    this.#setBusy(false);
    if (wanted.focusLayerId && this.#wanted === wanted) this.warm();
  }

  get #isMoving(): boolean {
    return this.#changes[1] - this.#changes[0] <= MOVEMENT_MS;
  }

  /** How many times a pass over these tiles is halved, so that it keeps up with what is changed, or something is seen at once. */
  #coarser(tiles: readonly Region[]): number {
    if (performance.now() - this.#changes[1] > REST_MS || this.#wanted?.document === this.#glimpsed) return 0;
    const expected = this.#msPerPixel * tiles.reduce((sum, { width, height }) => sum + width * height, 0);
    return expected <= (this.#isMoving ? BRISK_MS : PATIENCE_MS) ? 0 : Math.min(MOST_COARSE, Math.ceil(Math.log(expected / BRISK_MS) / Math.log(4)));
  }

  #restThenRefine(): void {
    this.#stopResting();
    this.#rest = setTimeout(() => {
      this.#rest = null;
      void this.#pump();
    }, Math.max(0, this.#changes[1] + REST_MS + 1 - performance.now()));
  }

  #stopResting(): void {
    if (this.#rest !== null) clearTimeout(this.#rest);
    this.#rest = null;
  }

  #setBusy(isBusy: boolean): void {
    if (this.#isBusy === isBusy) return;
    this.#isBusy = isBusy;
    this.events.onBusy(isBusy);
  }

  /** Enlarged to the window's level; the tiles stay to be drawn at their own. */
  #placeCoarsely(region: Region, rgba: Uint8ClampedArray<ArrayBuffer>, { level, coarser }: Pass): void {
    const window = this.#window;
    if (!window || window.level !== level) return;
    const tile = new OffscreenCanvas(region.width, region.height);
    tile.getContext('2d')?.putImageData(new ImageData(rgba, region.width, region.height), 0, 0);
    const scale = 2 ** coarser;
    window.context.imageSmoothingEnabled = true;
    window.context.drawImage(tile, region.x * scale - window.region.x, region.y * scale - window.region.y, region.width * scale, region.height * scale);
    this.events.onChange();
  }

  #place(region: Region, rgba: Uint8ClampedArray<ArrayBuffer>, level: number, wanted: Wanted): void {
    const window = this.#window;
    if (!window || window.level !== level || !contains(window.region, region)) return;
    window.context.putImageData(new ImageData(rgba, region.width, region.height), region.x - window.region.x, region.y - window.region.y);
    if (this.#wanted?.document === wanted.document && this.#wanted.reading === wanted.reading && this.#wanted.options.only === wanted.options.only) this.#fresh.add(tileName(region));
    this.events.onChange();
  }

  /** Computes in idle time what the next change of the focused layer will start from. */
  warm(): void {
    const window = this.#window;
    const wanted = this.#wanted;
    if (!window || !wanted?.focusLayerId || this.#running) return;
    const size = sizeAtLevel(wanted.document.size, window.level);
    this.engine.warm({ document: wanted.document, options: wanted.options, level: window.level, tiles: tilesOf(size, window.region), focusLayerId: wanted.focusLayerId }).catch(() => undefined);
  }

  focus(layerId: string | null): void {
    if (!this.#wanted || this.#wanted.focusLayerId === layerId) return;
    this.#wanted = { ...this.#wanted, focusLayerId: layerId };
    this.warm();
  }

  /**
   * Draws into device pixels: `scale` device pixels per picture pixel, `x` and `y` where the picture begins. While tiles
   * come in, `quick` halves what a frame costs; the last frame is drawn well.
   */
  draw(context: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D, scale: number, x: number, y: number, quick: boolean): void {
    const window = this.#window;
    if (!window) return;
    const s = scale * 2 ** window.level;
    // Enlarged pixels stay sharp squares: each one is a value of the picture.
    context.imageSmoothingEnabled = s < 1;
    context.imageSmoothingQuality = quick ? 'low' : 'high';
    const { region, canvas } = window;
    context.drawImage(canvas, x + region.x * s, y + region.y * s, region.width * s, region.height * s);
  }

  dispose(): void {
    this.#stopResting();
    this.#running?.abort.abort();
    this.#window = null;
    this.#wanted = null;
  }
}

const contains = (outer: Region, inner: Region) => inner.x >= outer.x && inner.y >= outer.y && inner.x + inner.width <= outer.x + outer.width && inner.y + inner.height <= outer.y + outer.height;
