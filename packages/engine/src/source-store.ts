/** Decoded sources: compact planes in shared memory, reduced levels beside them, the large ones leaving when memory runs short. */
import { type FileFormat, hashOfIdentity, isManaged, pixelIdentity, type Plane, REC709, rgbToXyz, roleKeepsValues, type Size, type Source, type SourceView, toRec709 } from '@tazzel/core';
import { type ExrFile, type ExrHeader, matteNotesOf } from '@tazzel/formats';
import { EngineError } from './errors.ts';
import { ExrParts } from './exr-parts.ts';
import type { WorkerPool } from './pool.ts';
import type { FileRef, ResponseOf } from './protocol.ts';

interface PlaneSet {
  readonly color: readonly Plane[];
  readonly alpha: Plane | null;
}

interface Entry {
  /** By level; null where it was evicted. */
  levels: (PlaneSet | null)[];
  loading: Promise<void> | null;
  lastUsed: number;
}

export const DEFAULT_BUDGET = 1.25 * 2 ** 30;
const SMALLEST_SIDE = 48;
/** Levels of this many samples and less are never evicted: cards and fit views need them. */
const SMALL_SAMPLES = 2 ** 21;
/** Sources decoded at the same time; more would only hold more memory. */
const LOADS_AT_ONCE = 2;
/** Of the budget, what elements may take that are unpacked before their turn, because they lie in the same chunks. */
const TOGETHER_SHARE = 0.3;

const keepsValues = (source: Source) => roleKeepsValues(source.role);

/** How many reduced levels are made of a picture. */
export const reducedLevels = ({ width, height }: Size): number => Math.max(0, Math.floor(Math.log2(Math.max(width, height) / SMALLEST_SIDE)));

const planesOf = (set: PlaneSet) => (set.alpha ? [...set.color, set.alpha] : [...set.color]);
const bytesOf = (set: PlaneSet | null) => (set ? planesOf(set).reduce((sum, plane) => sum + plane.data.byteLength, 0) : 0);

export class SourceStore {
  readonly #entries = new Map<string, Entry>();
  readonly #headers = new Map<string, Promise<ExrFile>>();
  readonly #pins = new Map<string, ReadonlySet<string>>();
  readonly #waiting: (() => void)[] = [];
  readonly #parts: ExrParts;
  #loads = 0;
  #clock = 0;

  constructor(
    readonly pool: WorkerPool,
    readonly files: ReadonlyMap<string, FileRef>,
    readonly allocateShared: (byteLength: number) => ArrayBufferLike,
    readonly budgetBytes: number,
    readonly onEvict: () => void = () => undefined,
  ) {
    this.#parts = new ExrParts(pool, allocateShared, budgetBytes * TOGETHER_SHARE);
  }

  get bytesHeld(): number {
    return [...this.#entries.values()].reduce((sum, entry) => sum + entry.levels.reduce((s, set) => s + bytesOf(set), 0), 0);
  }

  /** What is there now, without waiting: null if the source would have to be read first. */
  viewNow(source: Source, level: number): SourceView | null {
    const levels = this.#entries.get(pixelIdentity(source))?.levels;
    const set = levels?.[Math.min(level, levels.length - 1)];
    return levels && set ? this.#viewOf(source, set, level, levels.length - 1) : null;
  }

  /** Sources at levels that must stay while `owner` shows them. An empty list lets go. */
  pin(owner: string, sources: readonly Source[], level: number): void {
    this.#pins.set(owner, new Set(sources.map((source) => `${pixelIdentity(source)}@${level}`)));
  }

  /** @throws FormatError, EngineError `missing-file` */
  async view(source: Source, level: number): Promise<SourceView> {
    const key = pixelIdentity(source);
    let entry = this.#entries.get(key);
    if (!entry) {
      entry = { levels: [], loading: null, lastUsed: 0 };
      this.#entries.set(key, entry);
    }
    entry.lastUsed = ++this.#clock;
    for (let attempt = 0; ; attempt++) {
      const set = entry.levels[Math.min(level, entry.levels.length - 1)];
      if (set) return this.#viewOf(source, set, level, entry.levels.length - 1);
      if (attempt > 2) throw new EngineError('out-of-memory', `${source.name} does not fit into memory beside the other elements. Close other documents.`);
      entry.loading ??= this.#load(source, entry, level).finally(() => {
        (entry as Entry).loading = null;
      });
      await entry.loading;
    }
  }

  #viewOf(source: Source, set: PlaneSet, level: number, lastLevel: number): SourceView {
    // Pictures so small that a level was not made are only met in documents much larger than the source.
    const scale = 2 ** Math.min(level, lastLevel);
    const alpha = source.alpha === 'ignore' ? null : set.alpha;
    return { color: set.color, alpha, premultiplied: source.alpha === 'premultiplied', x: Math.floor(source.x / scale), y: Math.floor(source.y / scale) };
  }

  async #load(source: Source, entry: Entry, wanted: number): Promise<void> {
    const done = source.file.format === 'exr' ? this.#parts.expect(source) : () => undefined;
    if (this.#loads >= LOADS_AT_ONCE) await new Promise<void>((resume) => this.#waiting.push(resume));
    this.#loads++;
    try {
      const file = this.files.get(source.file.hash);
      if (!file) throw new EngineError('missing-file', `“${source.file.name}” is missing. Add the file again; its layers then show it.`);
      const stored = source.file.format === 'exr' ? await this.#decodeExr(source) : await this.#decodePicture(source, file, source.file.format);
      const full = source.fit ? await this.#fitted(source, stored, source.fit) : stored;
      const levels = reducedLevels(full.color[0]);
      const planes = planesOf(full);
      const reduced = await this.pool.run('reduce', { planes, keepsValues: keepsValues(source), levels });
      const sets = Array.from({ length: levels }, (_, i): PlaneSet => {
        const at = reduced.map((plane) => plane[i]);
        return full.alpha ? { color: at.slice(0, -1), alpha: at[at.length - 1] } : { color: at, alpha: null };
      });
      entry.levels = [full, ...sets];
      this.#evict(`${pixelIdentity(source)}@${wanted}`);
    } finally {
      done();
      this.#loads--;
      this.#waiting.shift()?.();
    }
  }

  /** What some lines of a source look like, without keeping it: for sets that do not fit into memory as a whole. */
  async sample(source: Source): Promise<ResponseOf<'content'>> {
    const { file, header } = await this.#part(source);
    const { colorChannels, alphaChannel } = source;
    return this.pool.run('content-exr', { file, header, colorChannels, alphaChannel });
  }

  /** What a file says of its coverage mattes, in any of its parts. */
  async matteNotes(source: Source): Promise<Readonly<Record<string, string>>> {
    return matteNotesOf((await this.#file(source)).parts);
  }

  /** How a matte was packed, if that changes its numbers: hashes that are rounded are others. Null where it does not. */
  async roundedBy(source: Source): Promise<string | null> {
    const { header } = await this.#part(source);
    const channels = header.channels.filter(({ name }) => source.colorChannels.includes(name) || name === source.alphaChannel);
    if (channels.some(({ type }) => type === 'f16')) return '16-bit numbers';
    if (header.compression === 'PXR24') return 'PXR24';
    // DWA changes channels that are called as colours.
    const isColour = channels.some(({ name }) => /(^|\.)(r|g|b|red|green|blue|grn|blu|y|by|ry)$/i.test(name));
    return header.compression.startsWith('DWA') && isColour ? header.compression : null;
  }

  async #part(source: Source): Promise<{ file: FileRef; header: ExrHeader }> {
    const { file, parts } = await this.#file(source);
    const header = parts.find((part) => (part.part ?? 0) === source.part);
    if (!header) throw new EngineError('missing-file', `${source.name}: “${source.file.name}” has no part ${source.part}. Add the file again.`);
    return { file, header };
  }

  async #file(source: Source): Promise<{ file: FileRef; parts: readonly ExrHeader[] }> {
    const { hash } = source.file;
    const file = this.files.get(hash);
    if (!file) throw new EngineError('missing-file', `“${source.file.name}” is missing. Add the file again; its layers then show it.`);
    let read = this.#headers.get(hash);
    if (!read) {
      read = this.pool.run('exr-header', { file });
      this.#headers.set(hash, read);
      read.catch(() => this.#headers.delete(hash));
    }
    return { file, parts: (await read).parts };
  }

  async #fitted(source: Source, stored: PlaneSet, size: Size): Promise<PlaneSet> {
    const planes = await this.pool.run('resample', { planes: planesOf(stored), size, keepsValues: keepsValues(source) });
    return stored.alpha ? { color: planes.slice(0, -1), alpha: planes[planes.length - 1] } : { color: planes, alpha: null };
  }

  async #decodePicture(source: Source, file: FileRef, format: Exclude<FileFormat, 'exr'>): Promise<PlaneSet> {
    const wanted = { page: source.part, color: source.colorChannels, alpha: source.alphaChannel !== null };
    const { color, alpha } = await this.pool.run('decode-picture', { file, format, wanted, managed: isManaged(source) });
    return { color, alpha: source.alphaChannel === null ? null : alpha };
  }

  async #decodeExr(source: Source): Promise<PlaneSet> {
    const { file, header } = await this.#part(source);
    const planes = await this.#parts.read(source, file, header);
    const plane = (name: string) => planes.get(name) as Plane;
    const color = await this.#asRgb(source, header, source.colorChannels.map(plane));
    return { color, alpha: source.alphaChannel === null ? null : plane(source.alphaChannel) };
  }

  /** Light in the primaries that everything else is in. */
  async #asRgb(source: Source, { primaries, channels, dataWindow }: ExrHeader, stored: readonly Plane[]): Promise<readonly Plane[]> {
    if (stored.length !== 3) return stored;
    const sampling = source.colorChannels.map((name) => channels.find((channel) => channel.name === name)?.sampling ?? ([1, 1] as const));
    const isLuminance = /(^|\.)ry$/i.test(source.colorChannels[0]) && /(^|\.)by$/i.test(source.colorChannels[2]);
    let color = stored;
    if (isLuminance) {
      const weights = rgbToXyz(primaries ?? REC709)[1];
      color = await this.pool.run('join-luminance', { color, place: dataWindow, sampling, weights });
    }
    const matrix = isManaged(source) && primaries && color[0].type !== 'u32' ? toRec709(primaries) : null;
    if (matrix) await this.pool.run('convert-light', { color, matrix });
    return color;
  }

  /** Lets go of everything large that nobody shows now. */
  evictIdle(): void {
    this.#evict('', 0);
  }

  #evict(justWanted: string, budgetBytes = this.budgetBytes): void {
    let excess = this.bytesHeld - budgetBytes;
    if (excess <= 0) return;
    this.onEvict();
    const pinned = new Set([justWanted, ...[...this.#pins.values()].flatMap((keys) => [...keys])]);
    for (const [key, entry] of [...this.#entries].sort(([, a], [, b]) => a.lastUsed - b.lastUsed)) {
      for (const [level, set] of entry.levels.entries()) {
        if (!set || pinned.has(`${key}@${level}`) || set.color[0].data.length <= SMALL_SAMPLES) continue;
        excess -= bytesOf(set);
        entry.levels[level] = null;
        if (excess <= 0) return;
      }
    }
  }

  /** Lets go of the pixels of a source at full size: they were read once and are kept in another form. */
  release(source: Source): void {
    const entry = this.#entries.get(pixelIdentity(source));
    const full = entry?.levels[0];
    if (entry && full && full.color[0].data.length > SMALL_SAMPLES) entry.levels[0] = null;
  }

  /** Forgets all other files, as when another document is opened. */
  keepOnly(hashes: ReadonlySet<string>): void {
    for (const key of this.#entries.keys()) if (!hashes.has(hashOfIdentity(key))) this.#entries.delete(key);
    for (const hash of this.#headers.keys()) if (!hashes.has(hash)) this.#headers.delete(hash);
    this.#pins.clear();
  }
}
