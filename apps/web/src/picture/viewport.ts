/** The picture on the screen: where it lies, what is drawn over it. Imperative; React only holds it. */
import { type Bend, bendsAround, bentKey, dabsOf, documentAgainst, elementDocument, type ElementLook, findMask, findSource, type Mask, maskKey, maskUseAt, materialTerm, newMask, placeBehind, placeSeen, type PlanOptions, type Point, type Region, type Source, type Stroke, sizeAtLevel, soloOf, surfaceOf, type TazzelDocument } from '@tazzel/core';
import { type Compare, comparedWith, type SessionStore } from '@tazzel/editor';
import { type Engine, levelForZoom } from '@tazzel/engine';
import { Surface } from './surface.ts';

export interface ViewportState {
  /** Device pixels per picture pixel. */
  readonly zoom: number;
  readonly fitted: boolean;
  readonly busy: boolean;
  /** Nothing is being computed and the screen shows the document as it is. */
  readonly settled: boolean;
  readonly problems: readonly string[];
}

interface Overlay {
  readonly key: string;
  readonly level: number;
  readonly region: Region;
  readonly canvas: OffscreenCanvas;
}

const MIN_ZOOM = 1 / 32;
const MAX_ZOOM = 32;
const FIT_MARGIN = 24;
/** Of the loupe, in CSS pixels. */
const LENS_RADIUS = 90;
/** The same object, so that nothing is made anew for it. */
const NO_OPTIONS: PlanOptions = {};
const NO_BENDS: readonly Bend[] = [];

/** A stroke while it is painted: dabs are drawn at once, the mask itself follows when the stroke is done. */
interface StrokePreview {
  readonly canvas: OffscreenCanvas;
  dabs: number;
}

export class Viewport {
  #zoom = 1;
  #x = 0;
  #y = 0;
  #fitted = true;
  /** How it was compared when it was fitted. */
  #fittedFor: Compare = 'off';
  #frame = 0;
  #canvas: HTMLCanvasElement | null = null;
  #pixelRatio = 1;
  #busy = 0;
  #problems: readonly string[] = [];
  readonly #after: Surface;
  readonly #before: Surface;
  readonly #lens: Surface;
  /** Where the loupe is held, in device pixels of the canvas; null while it is not. */
  #lensAt: { readonly x: number; readonly y: number } | null = null;
  #maskOverlay: Overlay | null = null;
  #outlineOverlay: Overlay | null = null;
  #hatch: OffscreenCanvas | null = null;
  #soloFrom: { readonly document: TazzelDocument; readonly lightIds: readonly string[]; readonly shown: TazzelDocument } | null = null;
  readonly #unsubscribe: () => void;
  readonly #listeners = new Set<() => void>();
  #state: ViewportState = { zoom: 1, fitted: true, busy: false, settled: false, problems: [] };

  constructor(
    readonly engine: Engine,
    readonly session: SessionStore,
  ) {
    const events = {
      onChange: () => this.#redraw(),
      onBusy: (busy: boolean) => {
        this.#busy += busy ? 1 : -1;
        // What was drawn meanwhile was drawn quickly: it has settled only when it is drawn once more.
        if (!busy) this.#redraw();
        this.#publish();
      },
      onProblems: (problems: readonly string[]) => {
        if (problems.join() === this.#problems.join()) return;
        this.#problems = problems;
        this.#publish();
      },
    };
    this.#after = new Surface(engine, events);
    this.#before = new Surface(engine, { ...events, onProblems: () => undefined });
    this.#lens = new Surface(engine, { onChange: () => this.#redraw(), onBusy: () => undefined, onProblems: () => undefined });
    const unsubscribe = session.subscribe(() => this.#update());
    const onTheme = () => this.#redraw();
    window.addEventListener('themechange', onTheme);
    this.#unsubscribe = () => {
      unsubscribe();
      window.removeEventListener('themechange', onTheme);
    };
  }

  // What React subscribes to.
  subscribe = (listener: () => void) => {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  };
  snapshot = () => this.#state;

  #publish(): void {
    this.#state = { zoom: this.#zoom, fitted: this.#fitted, busy: this.#busy > 0, settled: this.#isSettled, problems: this.#problems };
    for (const listener of this.#listeners) listener();
  }

  attach(canvas: HTMLCanvasElement): () => void {
    this.#canvas = canvas;
    const observer = new ResizeObserver(([entry]) => {
      // Device pixels, so that one picture pixel can be exactly one of the screen. Where the ratio is emulated, the
      // browser's own count does not know of it and is off by far.
      const box = entry.devicePixelContentBoxSize?.[0];
      this.#pixelRatio = window.devicePixelRatio;
      const exact = (counted: number | undefined, css: number) => (counted !== undefined && Math.abs(counted - css * this.#pixelRatio) <= 1 ? counted : Math.round(css * this.#pixelRatio));
      const width = exact(box?.inlineSize, entry.contentRect.width);
      const height = exact(box?.blockSize, entry.contentRect.height);
      if (width === 0 || height === 0) return;
      const [dx, dy] = [(width - canvas.width) / 2, (height - canvas.height) / 2];
      canvas.width = width;
      canvas.height = height;
      if (this.#fitted) this.fit();
      else this.#moveTo(this.#zoom, this.#x + dx, this.#y + dy);
    });
    observer.observe(canvas, { box: 'content-box' });
    return () => {
      observer.disconnect();
      this.#canvas = null;
    };
  }

  get document(): TazzelDocument {
    return this.session.getState().document;
  }

  fit(): void {
    if (!this.#canvas) return;
    const { width, height } = this.document.size;
    const margin = FIT_MARGIN * this.#pixelRatio;
    // Beside each other each has half of it.
    const across = this.session.getState().compare === 'beside' ? this.#canvas.width / 2 : this.#canvas.width;
    const zoom = Math.min((across - 2 * margin) / width, (this.#canvas.height - 2 * margin) / height, MAX_ZOOM);
    this.#fitted = true;
    this.#moveTo(Math.max(MIN_ZOOM, zoom), (this.#canvas.width - width * zoom) / 2, (this.#canvas.height - height * zoom) / 2);
  }

  /** Zooms so that the picture point under the pointer (CSS pixels from the canvas corner) stays where it is. */
  zoomAt(factor: number, cssX?: number, cssY?: number): void {
    if (!this.#canvas) return;
    this.zoomTo(this.#zoom * factor, cssX, cssY);
  }

  zoomTo(wanted: number, cssX?: number, cssY?: number): void {
    if (!this.#canvas) return;
    const zoom = Math.min(MAX_ZOOM, Math.max(MIN_ZOOM, wanted));
    const px = cssX === undefined ? this.#canvas.width / 2 : cssX * this.#pixelRatio + this.#shiftAt(cssX);
    const py = cssY === undefined ? this.#canvas.height / 2 : cssY * this.#pixelRatio;
    const factor = zoom / this.#zoom;
    this.#fitted = false;
    this.#moveTo(zoom, px - (px - this.#x) * factor, py - (py - this.#y) * factor);
  }

  /** Brings a picture pixel to the middle, at full size or closer. */
  showPoint(x: number, y: number): void {
    if (!this.#canvas) return;
    const zoom = Math.max(1, this.#zoom);
    this.#fitted = false;
    this.#moveTo(zoom, this.#canvas.width / 2 - (x + 0.5) * zoom, this.#canvas.height / 2 - (y + 0.5) * zoom);
  }

  panBy(cssDx: number, cssDy: number): void {
    this.#fitted = false;
    this.#moveTo(this.#zoom, this.#x + cssDx * this.#pixelRatio, this.#y + cssDy * this.#pixelRatio);
  }

  #moveTo(zoom: number, x: number, y: number): void {
    const canvas = this.#canvas;
    if (!canvas) return;
    const { width, height } = this.document.size;
    // A part of the picture always stays on the screen, and whole pixels stay on whole pixels.
    const keep = 60 * this.#pixelRatio;
    this.#zoom = zoom;
    this.#x = Math.round(Math.min(canvas.width - keep, Math.max(keep - width * zoom, x)));
    this.#y = Math.round(Math.min(canvas.height - keep, Math.max(keep - height * zoom, y)));
    this.#publish();
    this.#update();
  }

  /** Left edge and width of the picture on the canvas in CSS pixels, for the wipe's handle. */
  get span(): { left: number; width: number } {
    return { left: this.#x / this.#pixelRatio, width: (this.document.size.width * this.#zoom) / this.#pixelRatio };
  }

  get level(): number {
    return levelForZoom(this.#zoom);
  }

  #visible(level: number): Region {
    const scale = this.#zoom * 2 ** level;
    const canvas = this.#canvas as HTMLCanvasElement;
    const x = Math.max(0, Math.floor(-this.#x / scale));
    const y = Math.max(0, Math.floor(-this.#y / scale));
    return { x, y, width: Math.ceil((canvas.width - this.#x) / scale) - x, height: Math.ceil((canvas.height - this.#y) / scale) - y };
  }

  #update(): void {
    if (!this.#canvas || this.#canvas.width === 0) return;
    const { document, selectedLayerId, compare, viewedSourceId, lookAt, reading, soloLayerId } = this.session.getState();
    if (this.#fitted && this.#fittedFor !== compare) {
      this.#fittedFor = compare;
      this.fit();
      return;
    }
    const level = this.level;
    const visible = this.#visible(level);
    const viewed = viewedSourceId === null ? null : findSource(document, viewedSourceId);
    const focus = viewed || lookAt ? null : selectedLayerId;
    const shown = this.#shown;
    const options = !viewed && !lookAt && soloLayerId !== null ? { only: soloLayerId } : NO_OPTIONS;
    this.#after.show(shown, options, focus, reading);
    this.#after.look(level, visible);
    this.#after.focus(focus);
    if (compare !== 'off') {
      this.#before.show(this.#beforeOf(document), NO_OPTIONS, null, reading);
      this.#before.look(level, visible);
    }
    this.#updateLens(shown, options);
    this.#updateMask();
    this.#updateOutline();
    this.#redraw();
    if (this.#state.settled !== this.#isSettled) this.#publish();
  }

  /** The document whose picture is on the screen. */
  get #shown(): TazzelDocument {
    const { document, viewedSourceId, lookAt, soloLightIds } = this.session.getState();
    const viewed = viewedSourceId === null ? null : findSource(document, viewedSourceId);
    return viewed ? this.#elementOf(document, viewed) : (lookAt?.document ?? (soloLightIds.length > 0 ? this.#soloOf(document, soloLightIds) : document));
  }

  /** What bends the picture on the screen over a layer, or over the render. */
  #bends(layerId: string | null): readonly Bend[] {
    const { compare, soloLayerId } = this.session.getState();
    // Alone a layer is seen as it is by itself.
    if (soloLayerId !== null) return NO_BENDS;
    const shown = compare === 'before' ? this.#beforeOf(this.document) : this.#shown;
    const { below, above } = bendsAround(shown, layerId);
    return layerId === null ? below : above;
  }

  /** Where what is shown at a place lies in the render, or in the picture in which a layer works. */
  placeBehind(at: Point, layerId: string | null = null): Point {
    return placeBehind(this.#bends(layerId), at);
  }

  /** The other way round: where a place of the render, or of a layer, is shown. */
  placeSeen(at: Point, layerId: string | null = null): Point {
    return placeSeen(this.#bends(layerId), at);
  }

  /** With only some lights lit: the same object for the same document. */
  #soloOf(document: TazzelDocument, lightIds: readonly string[]): TazzelDocument {
    if (this.#soloFrom?.document !== document || this.#soloFrom.lightIds !== lightIds) this.#soloFrom = { document, lightIds, shown: soloOf(document, lightIds) };
    return this.#soloFrom.shown;
  }

  /** The same document object for the same document, so that nothing is computed twice. */
  #beforeOf(document: TazzelDocument): TazzelDocument {
    const against = comparedWith(this.session.getState());
    const asked = JSON.stringify(against);
    if (this.#beforeFrom?.document !== document || this.#beforeFrom.asked !== asked) {
      const next = documentAgainst(document, against) ?? document;
      const now = this.#beforeDocument;
      const isSame = now && next.sources === now.sources && next.masks === now.masks && JSON.stringify([next.buildUp, next.tone]) === JSON.stringify([now.buildUp, now.tone]);
      if (!isSame) this.#beforeDocument = next;
      this.#beforeFrom = { document, asked };
    }
    return this.#beforeDocument as TazzelDocument;
  }
  #elementOf(document: TazzelDocument, source: Source): TazzelDocument {
    const { elementLook } = this.session.getState();
    const look = elementLook?.sourceId === source.id ? elementLook : null;
    if (this.#elementFrom?.source !== source || this.#elementFrom.look !== look || !this.#elementDocument) {
      this.#elementDocument = elementDocument(document, source, look);
      this.#elementFrom = { source, look };
    }
    return this.#elementDocument;
  }
  #elementFrom: { source: Source; look: ElementLook | null } | null = null;
  #elementDocument: TazzelDocument | null = null;
  #beforeFrom: { readonly document: TazzelDocument; readonly asked: string } | null = null;
  #beforeDocument: TazzelDocument | null = null;

  /** The mask that the interface is about: one of the shelf, of the selected materials, correction or layer. */
  get shownMask(): { mask: Mask; inverted: boolean } | null {
    const { document, selectedLayerId, selectedCorrectionId, selectedMaterialIds, focus } = this.session.getState();
    if (focus.kind === 'mask') {
      const mask = findMask(document, focus.maskId);
      const solo = focus.soloTermId === null ? undefined : mask?.terms.find(({ id }) => id === focus.soloTermId);
      if (mask && solo) return { mask: newMask(mask.id, mask.name, [{ ...solo, operation: 'add', muted: false }]), inverted: false };
      return mask ? { mask, inverted: false } : null;
    }
    if (focus.kind === 'material') return selectedMaterialIds.length > 0 ? { mask: newMask('selection', 'Selection', [materialTerm(selectedMaterialIds)]), inverted: false } : null;
    const use = selectedLayerId ? maskUseAt(document, selectedLayerId, selectedCorrectionId) : null;
    const mask = use && findMask(document, use.maskId);
    return use && mask ? { mask, inverted: use.inverted } : null;
  }

  #updateMask(): void {
    const { document, maskDisplay } = this.session.getState();
    const shown = maskDisplay === 'off' ? null : this.shownMask;
    if (!shown) {
      this.#maskOverlay = null;
      return;
    }
    const matte = maskDisplay === 'matte';
    const bends = this.#bends(null);
    const key = `${bentKey(maskKey(document, shown.mask), bends)} ${shown.inverted} ${matte}`;
    this.#overlay(key, this.#maskOverlay, (level, region) => this.engine.maskPicture(document, shown.mask, level, region, { inverted: shown.inverted, matte, bends }), (overlay) => {
      this.#maskOverlay = overlay;
    });
  }

  #updateOutline(): void {
    const { document, hoveredMaterialId } = this.session.getState();
    if (!hoveredMaterialId) {
      this.#outlineOverlay = null;
      return;
    }
    const surface = surfaceOf(document, hoveredMaterialId);
    const bends = this.#bends(null);
    this.#overlay(bentKey(surface.join(), bends), this.#outlineOverlay, (level, region) => this.engine.outline(document, surface, level, region, bends), (overlay) => {
      this.#outlineOverlay = overlay;
    });
  }

  readonly #asked = new Set<string>();
  #overlay(key: string, current: Overlay | null, ask: (level: number, region: Region) => Promise<Uint8ClampedArray<ArrayBuffer>>, keep: (overlay: Overlay) => void): void {
    const level = this.level;
    const size = sizeAtLevel(this.document.size, level);
    const seen = this.#visible(level);
    const region = { x: seen.x, y: seen.y, width: Math.min(size.width - seen.x, seen.width), height: Math.min(size.height - seen.y, seen.height) };
    const id = `${key} ${level} ${region.x} ${region.y} ${region.width} ${region.height}`;
    if (region.width <= 0 || region.height <= 0 || current?.key === id || this.#asked.has(id)) return;
    this.#asked.add(id);
    ask(level, region)
      .then((rgba) => {
        const canvas = new OffscreenCanvas(region.width, region.height);
        canvas.getContext('2d')?.putImageData(new ImageData(rgba, region.width, region.height), 0, 0);
        keep({ key: id, level, region, canvas });
        if (this.#strokeEnded) this.#preview = null;
        // Meanwhile something else may be wanted: a second look settles it.
        this.#asked.delete(id);
        this.#updateMask();
        this.#updateOutline();
        this.#redraw();
      })
      .catch(() => this.#asked.delete(id))
      .finally(() => this.#state.settled !== this.#isSettled && this.#publish());
  }

  #redraw(): void {
    if (this.#frame !== 0) return;
    this.#frame = requestAnimationFrame(() => {
      this.#frame = 0;
      this.#draw();
      if (this.#state.settled !== this.#isSettled) this.#publish();
    });
  }

  #draw(): void {
    const canvas = this.#canvas;
    const context = canvas?.getContext('2d', { alpha: false });
    if (!canvas || !context) return;
    const { compare, wipeAt, maskDisplay } = this.session.getState();
    const { width, height } = this.document.size;
    const [w, h] = [width * this.#zoom, height * this.#zoom];
    context.fillStyle = getComputedStyle(canvas).getPropertyValue('--field') || '#777777';
    context.fillRect(0, 0, canvas.width, canvas.height);
    // A thin rule around the picture, as on a sheet.
    context.strokeStyle = 'rgb(0 0 0 / 0.55)';
    context.strokeRect(this.#x - 0.5, this.#y - 0.5, w + 1, h + 1);
    context.save();
    context.beginPath();
    context.rect(this.#x, this.#y, w, h);
    context.clip();
    const quick = this.#busy > 0;
    if (compare === 'beside') this.#drawBeside(context, w, h, quick);
    else if (compare === 'difference') this.#drawDifference(context, quick);
    else (compare === 'before' ? this.#before : this.#after).draw(context, this.#zoom, this.#x, this.#y, quick);
    if (compare === 'wipe') this.#within(context, [this.#x, this.#y, w * wipeAt, h], () => this.#before.draw(context, this.#zoom, this.#x, this.#y, quick));
    if (compare === 'beside') {
      context.restore();
      this.#drawLens(context);
      return;
    }
    if (this.#maskOverlay) this.#drawMask(context, this.#maskOverlay, maskDisplay === 'matte');
    if (this.#preview) context.drawImage(this.#preview.canvas, 0, 0);
    if (this.#outlineOverlay) this.#drawOutline(context, this.#outlineOverlay);
    context.restore();
    this.#drawLens(context);
  }

  #within(context: CanvasRenderingContext2D, [x, y, width, height]: readonly [number, number, number, number], draw: () => void): void {
    context.save();
    context.beginPath();
    context.rect(x, y, width, height);
    context.clip();
    draw();
    context.restore();
  }

  /** The middle half of what is seen, on the left as it is compared with, on the right as it is. */
  #drawBeside(context: CanvasRenderingContext2D, w: number, h: number, quick: boolean): void {
    const { width, height } = context.canvas;
    const [half, quarter] = [Math.round(width / 2), Math.round(width / 4)];
    context.restore();
    context.save();
    for (const [surface, left, x] of [[this.#before, 0, this.#x - quarter], [this.#after, half, this.#x + quarter]] as const) {
      this.#within(context, [left, 0, left === 0 ? half : width - half, height], () => {
        context.fillRect(left, 0, half + 1, height);
        this.#within(context, [x, this.#y, w, h], () => surface.draw(context, this.#zoom, x, this.#y, quick));
      });
    }
    context.fillStyle = 'black';
    context.fillRect(half - 1, 0, 2, height);
  }

  /** What differs between the codes of the two, doubled for every stop. */
  #drawDifference(context: CanvasRenderingContext2D, quick: boolean): void {
    const { width, height } = context.canvas;
    const canvas = new OffscreenCanvas(width, height);
    const on = canvas.getContext('2d') as OffscreenCanvasRenderingContext2D;
    on.fillStyle = 'black';
    on.fillRect(0, 0, width, height);
    this.#after.draw(on, this.#zoom, this.#x, this.#y, quick);
    on.globalCompositeOperation = 'difference';
    this.#before.draw(on, this.#zoom, this.#x, this.#y, quick);
    on.globalCompositeOperation = 'lighter';
    for (let stop = 0; stop < this.session.getState().differenceStops; stop++) on.drawImage(canvas, 0, 0);
    context.drawImage(canvas, 0, 0);
  }

  /** Holds the loupe at a place of the canvas, or puts it away. */
  lensAt(at: { readonly x: number; readonly y: number } | null): void {
    if (at === null && this.#lensAt === null) return;
    this.#lensAt = at && { x: at.x * this.#pixelRatio, y: at.y * this.#pixelRatio };
    if (this.session.getState().loupe > 0) this.#update();
  }

  /** Side of the loupe in device pixels. */
  get #lensSide(): number {
    return 2 * Math.round(LENS_RADIUS * this.#pixelRatio);
  }

  #updateLens(document: TazzelDocument, options: PlanOptions): void {
    const { loupe, reading } = this.session.getState();
    const center = this.#lensCenter;
    if (loupe === 0 || !center) return;
    const radius = Math.ceil(this.#lensSide / 2 / loupe) + 1;
    this.#lens.show(document, options, null, reading);
    this.#lens.look(0, { x: Math.max(0, Math.floor(center[0]) - radius), y: Math.max(0, Math.floor(center[1]) - radius), width: 2 * radius, height: 2 * radius });
  }

  /** The point of the picture under the loupe. */
  get #lensCenter(): Point | null {
    return this.#lensAt && this.pointAt(this.#lensAt.x / this.#pixelRatio, this.#lensAt.y / this.#pixelRatio);
  }

  #drawLens(context: CanvasRenderingContext2D): void {
    const { loupe } = this.session.getState();
    const [at, center] = [this.#lensAt, this.#lensCenter];
    if (loupe === 0 || !at || !center) return;
    const side = this.#lensSide;
    const [left, top] = [Math.round(at.x - side / 2), Math.round(at.y - side / 2)];
    this.#within(context, [left, top, side, side], () => {
      context.fillStyle = getComputedStyle(context.canvas).getPropertyValue('--field') || '#777777';
      context.fillRect(left, top, side, side);
      this.#lens.draw(context, loupe, Math.round(at.x - center[0] * loupe), Math.round(at.y - center[1] * loupe), false);
    });
    context.strokeStyle = 'white';
    context.strokeRect(left - 0.5, top - 0.5, side + 1, side + 1);
    context.strokeStyle = 'black';
    context.strokeRect(left - 1.5, top - 1.5, side + 3, side + 3);
  }

  #place(overlay: Overlay): [number, number, number, number] {
    const s = this.#zoom * 2 ** overlay.level;
    return [this.#x + overlay.region.x * s, this.#y + overlay.region.y * s, overlay.region.width * s, overlay.region.height * s];
  }

  #drawMask(context: CanvasRenderingContext2D, overlay: Overlay, matte: boolean): void {
    const [x, y, w, h] = this.#place(overlay);
    context.imageSmoothingEnabled = this.#zoom * 2 ** overlay.level < 1;
    if (matte) return void context.drawImage(overlay.canvas, x, y, w, h);
    const layer = new OffscreenCanvas(context.canvas.width, context.canvas.height);
    const on = layer.getContext('2d') as OffscreenCanvasRenderingContext2D;
    on.drawImage(overlay.canvas, x, y, w, h);
    on.globalCompositeOperation = 'source-in';
    on.fillStyle = on.createPattern(this.#hatchTile(), 'repeat') as CanvasPattern;
    on.fillRect(0, 0, layer.width, layer.height);
    context.drawImage(layer, 0, 0);
  }

  /** White and black lines side by side, seen on any picture. */
  #hatchTile(): OffscreenCanvas {
    if (this.#hatch) return this.#hatch;
    const side = 9;
    const tile = new OffscreenCanvas(side, side);
    const context = tile.getContext('2d') as OffscreenCanvasRenderingContext2D;
    for (let y = 0; y < side; y++) {
      for (let x = 0; x < side; x++) {
        const place = (x + y) % side;
        if (place > 1) continue;
        context.fillStyle = place === 0 ? 'rgb(255 255 255 / 0.85)' : 'rgb(0 0 0 / 0.7)';
        context.fillRect(x, y, 1, 1);
      }
    }
    this.#hatch = tile;
    return tile;
  }

  #drawOutline(context: CanvasRenderingContext2D, overlay: Overlay): void {
    const [x, y, w, h] = this.#place(overlay);
    const tinted = (color: string) => {
      const canvas = new OffscreenCanvas(overlay.canvas.width, overlay.canvas.height);
      const on = canvas.getContext('2d') as OffscreenCanvasRenderingContext2D;
      on.drawImage(overlay.canvas, 0, 0);
      on.globalCompositeOperation = 'source-in';
      on.fillStyle = color;
      on.fillRect(0, 0, canvas.width, canvas.height);
      return canvas;
    };
    context.imageSmoothingEnabled = false;
    const dark = tinted('rgb(0 0 0 / 0.8)');
    context.drawImage(dark, x + 1, y + 1, w, h);
    context.drawImage(tinted('#ffffff'), x, y, w, h);
  }

  #preview: StrokePreview | null = null;
  #strokeEnded = false;

  /** Draws what is new of a stroke. The next frame shows it. */
  previewStroke(stroke: Stroke): void {
    const canvas = this.#canvas;
    if (!canvas) return;
    if (!this.#preview || this.#strokeEnded) this.#preview = { canvas: new OffscreenCanvas(canvas.width, canvas.height), dabs: 0 };
    this.#strokeEnded = false;
    const context = this.#preview.canvas.getContext('2d') as OffscreenCanvasRenderingContext2D;
    const dabs = dabsOf(stroke);
    const bends = this.#bends(null);
    const matte = this.session.getState().maskDisplay === 'matte';
    const ink = stroke.erase ? '0 0 0' : '255 255 255';
    for (const { x, y, pressure } of dabs.slice(this.#preview.dabs)) {
      const radius = Math.max(0.5, (stroke.sizePx / 2) * this.#zoom * (0.3 + 0.7 * pressure));
      const [sx, sy] = placeSeen(bends, [x, y]);
      const [cx, cy] = [this.#x + sx * this.#zoom, this.#y + sy * this.#zoom];
      const alpha = stroke.flow * pressure * stroke.opacity * (matte ? 1 : 0.6);
      const fill = context.createRadialGradient(cx, cy, radius * Math.min(0.98, stroke.hardness), cx, cy, radius);
      fill.addColorStop(0, `rgb(${ink} / ${alpha})`);
      fill.addColorStop(1, `rgb(${ink} / 0)`);
      context.fillStyle = fill;
      context.fillRect(cx - radius, cy - radius, radius * 2, radius * 2);
    }
    this.#preview.dabs = dabs.length;
    this.#redraw();
  }

  /** The stroke is in the document (or given up): its preview stays until the mask that holds it is there. */
  endStroke(isKept: boolean): void {
    this.#strokeEnded = true;
    if (!isKept || this.session.getState().maskDisplay === 'off') this.#preview = null;
    this.#redraw();
  }

  /** The pixel at a point of the picture; null beside it. */
  pixelOf([x, y]: Point): { x: number; y: number } | null {
    const { width, height } = this.session.getState().document.size;
    return x >= 0 && y >= 0 && x < width && y < height ? { x: Math.floor(x), y: Math.floor(y) } : null;
  }

  /** A point of the picture (in its own pixels, with fractions) at a place of the canvas, also beside the picture. */
  pointAt(cssX: number, cssY: number): Point {
    return [(cssX * this.#pixelRatio + this.#shiftAt(cssX) - this.#x) / this.#zoom, (cssY * this.#pixelRatio - this.#y) / this.#zoom];
  }

  /** Beside each other both halves show the middle of what is seen. */
  #shiftAt(cssX: number): number {
    const width = this.#canvas?.width ?? 0;
    if (this.session.getState().compare !== 'beside') return 0;
    return (cssX * this.#pixelRatio < Math.round(width / 2) ? 1 : -1) * Math.round(width / 4);
  }

  /** Where a point of the picture lies on the canvas, in CSS pixels. */
  cssOf([x, y]: Point): { x: number; y: number } {
    return { x: (this.#x + x * this.#zoom) / this.#pixelRatio, y: (this.#y + y * this.#zoom) / this.#pixelRatio };
  }

  get #isSettled(): boolean {
    return this.#frame === 0 && this.#busy === 0 && this.#asked.size === 0 && this.#after.isComplete && (this.session.getState().compare === 'off' || this.#before.isComplete);
  }

  dispose(): void {
    this.#unsubscribe();
    cancelAnimationFrame(this.#frame);
    this.#after.dispose();
    this.#before.dispose();
    this.#lens.dispose();
  }
}
