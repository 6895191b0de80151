/** Materials and masks: what the ID pictures say, and every recipe as a plane of coverage, kept until something it depends on changes. */
import { type Bend, behindSource, bentKey, cameraOf, chipOf, type CoverageShares, type CoverageView, coverageFor, coverageRanks, digest, emptiedFor, findMask, findSource, type Mask, type MaskInputs, type MaskProblem, type MaskTerm, type MaskView, type MatteView, type Material, type MaterialKind, materialPlaces, materialsFromPalette, materialSources, type MatteNames, matteNames, type Mixture, type MixtureView, maskKey, needKey, type Plane, resolveMask, rowKindOf, scheduleSources, shortened, type Source, sizeAtLevel, tagsOf, type TazzelDocument, hashOfIdentity, pixelIdentity, termSpec, unbent } from '@tazzel/core';
import { Cancelled, EngineError } from './errors.ts';
import { type Painted, PaintStore } from './paint-store.ts';
import { PRIORITY, type WorkerPool } from './pool.ts';
import type { SharedIndex } from './protocol.ts';
import type { SourceStore } from './source-store.ts';

export interface MadeMask {
  readonly plane: Plane;
  readonly problems: readonly MaskProblem[];
}

/** The picture after a layer as three planes of display values. `emptied` names masks that count as empty in it. */
export type PictureAfter = (document: TazzelDocument, layerId: string, level: number, emptied: ReadonlySet<string>) => Promise<readonly Plane[]>;

/** Masks that nobody shows any more are forgotten, the oldest first, beyond this. */
const MASK_BYTES = 384 * 2 ** 20;
/** Rows of a schedule at most: more are no things an artist could tell apart. */
const MAX_ROWS = 4096;

export class MaskStore {
  readonly #mixtures = new Map<string, Promise<Mixture>>();
  readonly #coverages = new Map<string, Promise<CoverageShares>>();
  readonly #indices = new Map<string, Promise<SharedIndex>>();
  readonly #readyIndices = new Map<string, SharedIndex>();
  readonly #paint: PaintStore;
  readonly #masks = new Map<string, { made: Promise<MadeMask>; bytes: number }>();

  constructor(
    readonly pool: WorkerPool,
    readonly store: SourceStore,
    readonly pictureAfter: PictureAfter,
    /** Texts of manifests that lie beside pictures, by the names of their files. */
    readonly manifests: ReadonlyMap<string, string>,
  ) {
    this.#paint = new PaintStore(pool);
  }

  /**
   * The rows that a picture of IDs, a coverage matte or an RGB matte holds. `beside` are the other elements of the set: a coverage matte of the same
   * things gives names and exact edges, a diffuse filter the colours.
   * @throws CoreError `too-many-colours` if a flat picture is not flat
   */
  async findMaterials(source: Source, beside: readonly Source[] = []): Promise<Material[]> {
    return (await this.#rowsOf(source, beside, new Set())).rows;
  }

  /** The schedule of a set of elements, of all pictures that say something about materials and objects. What cannot be read is named. */
  async findSchedule(sources: readonly Source[]): Promise<{ materials: Material[]; problems: string[] }> {
    const materials: Material[] = [];
    const problems: string[] = [];
    const pictures = scheduleSources(sources);
    const take = async (some: readonly Source[]) => {
      // Of a matte only what no flat picture has told already.
      const known = new Set(materials.flatMap(({ coverage }) => (coverage ? [hashKey(coverage)] : [])));
      const found = await Promise.allSettled(some.map((source) => this.#rowsOf(source, sources, known)));
      for (const [n, result] of found.entries()) {
        if (result.status === 'rejected') {
          if (result.reason instanceof Cancelled) throw result.reason;
          problems.push(`${some[n].name}: ${(result.reason as Error).message}`);
          continue;
        }
        problems.push(...result.value.problems);
        materials.push(...result.value.rows);
      }
    };
    await take(pictures.filter(({ role }) => role !== 'coverage-matte'));
    await take(pictures.filter(({ role }) => role === 'coverage-matte'));
    return { materials: renumbered(materials), problems: [...new Set(problems)] };
  }

  async #rowsOf(source: Source, beside: readonly Source[], known: ReadonlySet<string>): Promise<FoundRows> {
    const { rows, problems } = source.role === 'coverage-matte' ? await this.#coverageRows(source, beside, known) : source.role === 'rgb-matte' ? { rows: await this.#channelRows(source), problems: [] } : await this.#flatRows(source, beside);
    return { rows: await this.#withMeans(rows, source, beside), problems };
  }

  async #flatRows(source: Source, beside: readonly Source[]): Promise<FoundRows> {
    const view = await this.store.view(source, 0);
    const { colors, mixture } = await this.pool.run('palette', { planes: view.color, encoding: source.encoding, isLossy: isLossy(source) });
    const rows = materialsFromPalette(source.id, colors, rowKindOf(source));
    const key = rowsKey(source, rows);
    this.#mixtures.set(key, Promise.resolve(mixture));
    this.#keepIndex(key, { width: mixture.width, height: mixture.height, data: mixture.index });
    const matte = coverageFor(beside, source);
    if (!matte || matte.width !== source.width || matte.height !== source.height) return { rows, problems: [] };
    try {
      const coverage = await this.#coverage(coverageRanks(beside, matte.id));
      const hashes = await this.pool.run('hashes-of-colors', { index: { width: mixture.width, height: mixture.height, data: mixture.index }, count: rows.length, coverage });
      const { names, problem } = await this.#names(matte);
      const named = rows.map((row, i) => {
        const hash = hashes[i];
        return hash === null ? row : { ...row, coverage: { sourceId: matte.id, hash }, name: shortened(names.get(hash) ?? row.name) };
      });
      return { rows: named, problems: problem ? [problem] : [] };
    } catch (error) {
      if (error instanceof Cancelled) throw error;
      // Without its matte a picture of IDs is as good as before; why it is not read is said of the matte.
      return { rows, problems: [] };
    }
  }

  async #coverageRows(source: Source, beside: readonly Source[], known: ReadonlySet<string>): Promise<FoundRows> {
    const ranks = coverageRanks(beside.some(({ id }) => id === source.id) ? beside : [...beside, source], source.id);
    if (ranks.length === 0) throw new EngineError('bad-element', `${source.name} is the preview of a coverage matte. Choose the one with a number behind its name.`);
    const all = (await this.pool.run('covered-ids', { coverage: await this.#coverage(ranks) })).slice(0, MAX_ROWS);
    if (all.length === 0) throw new EngineError('bad-element', `${source.name} holds no coverage: mattes are 32-bit floats that no program has filtered. Save it again, without changing it.`);
    const found = all.filter(({ hash }) => !known.has(hashKey({ sourceId: ranks[0].id, hash })));
    const { names, problem } = await this.#names(ranks[0]);
    const kind = rowKindOf(source);
    const tags = tagsOf(kind, found.length);
    const rows = found.map(({ hash, area }, i): Material => ({ id: `${kind}-${i + 1}`, kind, tag: tags[i], name: shortened(names.get(hash) ?? tags[i]), surface: null, sourceId: ranks[0].id, colorKey: hash, coverage: { sourceId: ranks[0].id, hash }, chip: chipOf(i), area: Math.min(1, area), mean: null }));
    return { rows, problems: problem ? [problem] : [] };
  }

  async #channelRows(source: Source): Promise<Material[]> {
    const kind = rowKindOf(source);
    const { areas } = await this.pool.run('channel-rows', { planes: (await this.#matte(source)).planes });
    const tags = tagsOf(kind, areas.length);
    const words = ['red', 'green', 'blue', 'alpha'];
    return areas.map((area, i) => ({ id: `${kind}-${i + 1}`, kind, tag: tags[i], name: shortened(`${source.name} ${words[i]}`), surface: null, sourceId: source.id, colorKey: i, coverage: null, chip: i < 3 ? ([Number(i === 0), Number(i === 1), Number(i === 2)] as const) : ([1, 1, 1] as const), area, mean: null }));
  }

  async #withMeans(rows: Material[], source: Source, beside: readonly Source[]): Promise<Material[]> {
    const looks = (['diffuse-filter', 'denoised-beauty', 'beauty'] as const).map((role) => beside.find((other) => other.role === role && other.width === source.width && other.height === source.height)).find((other) => other !== undefined);
    if (!looks || rows.length === 0) return rows;
    try {
      const index = await this.#index(source, rows, beside);
      const means = await this.pool.run('row-means', { index, count: rows.length, view: await this.#view(looks, 0) });
      return rows.map((row, i) => ({ ...row, mean: means[i] }));
    } catch (error) {
      if (error instanceof Cancelled) throw error;
      return rows;
    }
  }

  async #names(matte: Source): Promise<MatteNames> {
    return matte.file.format === 'exr' ? matteNames(await this.store.matteNotes(matte), matte, (file) => this.manifests.get(file)) : { names: new Map(), problem: null };
  }

  /** Which row of the schedule lies at a pixel of the picture; null where none does or the index is not there yet. */
  materialAt(document: TazzelDocument, x: number, y: number, kind: MaterialKind): Material | null {
    for (const source of materialSources(document, kind)) {
      const rows = rowsOfSource(document, source.id);
      const index = this.#readyIndices.get(rowsKey(source, rows));
      const [sx, sy] = [x - source.x, y - source.y];
      if (!index || sx < 0 || sy < 0 || sx >= index.width || sy >= index.height) continue;
      const row = rows[index.data[sy * index.width + sx]];
      if (row) return row;
    }
    return null;
  }

  /** Makes `materialAt` ready. */
  async prepare(document: TazzelDocument): Promise<void> {
    const sources = new Set((['material', 'object'] as const).flatMap((kind) => materialSources(document, kind)));
    await Promise.allSettled([...sources].map((source) => this.#index(source, rowsOfSource(document, source.id), document.sources)));
  }

  #keepIndex(key: string, index: SharedIndex): SharedIndex {
    this.#readyIndices.set(key, index);
    this.#indices.set(key, Promise.resolve(index));
    return index;
  }

  #index(source: Source, rows: readonly Material[], beside: readonly Source[]): Promise<SharedIndex> {
    const key = rowsKey(source, rows);
    return once(this.#indices, key, async () => {
      if (source.role === 'coverage-matte') {
        const coverage = await this.#coverage(coverageRanks(beside, source.id));
        return this.#keepIndex(key, await this.pool.run('coverage-index', { coverage, hashes: rows.map(({ colorKey }) => colorKey) }));
      }
      if (source.role === 'rgb-matte') return this.#keepIndex(key, (await this.pool.run('channel-rows', { planes: (await this.#matte(source)).planes })).index);
      const { width, height, index } = await this.#mixture(source, rows);
      return this.#keepIndex(key, { width, height, data: index });
    });
  }

  #mixture(source: Source, rows: readonly Material[]): Promise<Mixture> {
    return once(this.#mixtures, rowsKey(source, rows), async () => this.pool.run('unmix', { planes: (await this.store.view(source, 0)).color, keys: rows.map(({ colorKey }) => colorKey), isLossy: isLossy(source) }, { priority: PRIORITY.view }));
  }

  /** A coverage matte, read one source after the other: together they would be larger than everything else. @throws CoreError `bad-coverage` */
  #coverage(ranks: readonly Source[]): Promise<CoverageShares> {
    return once(this.#coverages, ranks.map(pixelIdentity).join(' '), async () => {
      let coverage: CoverageShares | null = null;
      const rounded = ranks[0].file.format === 'exr' ? await this.store.roundedBy(ranks[0]) : '8 or 16 bits';
      if (rounded) throw new EngineError('bad-element', `its numbers were rounded (${rounded}), so that nothing in it can be told apart. Save coverage mattes as 32-bit floats with ZIP compression.`);
      for (const [place, rank] of ranks.entries()) {
        const { planes } = await this.#matte(rank);
        const options = { priority: PRIORITY.view };
        coverage = coverage ? await this.pool.run('add-coverage', { coverage, planes, place }, options) : await this.pool.run('begin-coverage', { planes, sources: ranks.length }, options);
        this.store.release(rank);
      }
      if (!coverage) throw new EngineError('bad-element', 'The coverage matte is gone.');
      return coverage;
    });
  }

  async #matte(source: Source): Promise<MatteView> {
    const { color, alpha, x, y } = await this.store.view({ ...source, alpha: source.alphaChannel === null ? 'none' : 'straight' }, 0);
    return { planes: alpha ? [...color, alpha] : color, x, y };
  }

  async #view(source: Source, level: number): Promise<MaskView> {
    const { encoding, scale, offset } = source;
    return { ...(await this.store.view({ ...source, alpha: source.alphaChannel === null ? 'none' : 'straight' }, level)), encoding, scale, offset };
  }

  /** A mask at a level, as it lies once the picture is bent. Terms that cannot be made are left out and named among the problems; the rest is as it would be without them. */
  async mask(document: TazzelDocument, mask: Mask, level: number, bends: readonly Bend[] = []): Promise<MadeMask> {
    // Recipes that differ only in lines that cannot work share their coverage, not what is said about them.
    const { problems } = resolveMask(document, mask);
    const made = await this.#made(document, mask, level, bends);
    return { plane: made.plane, problems: [...problems, ...made.problems] };
  }

  #made(document: TazzelDocument, mask: Mask, level: number, bends: readonly Bend[]): Promise<MadeMask> {
    const key = `${bentKey(maskKey(document, mask), bends)}@${level}`;
    const known = this.#masks.get(key);
    if (known) {
      this.#masks.delete(key);
      this.#masks.set(key, known);
      return known.made;
    }
    const size = sizeAtLevel(document.size, level);
    const made = bends.length === 0 ? this.#make(document, mask, level) : this.#bent(document, mask, level, bends);
    this.#masks.set(key, { made, bytes: size.width * size.height * 2 });
    made.then(
      // What failed may work the next time: a file may be added again.
      ({ problems }) => problems.length > 0 && this.#masks.delete(key),
      () => this.#masks.delete(key),
    );
    let bytes = [...this.#masks.values()].reduce((sum, entry) => sum + entry.bytes, 0);
    for (const [oldest, entry] of this.#masks) {
      if (bytes <= MASK_BYTES || oldest === key) break;
      this.#masks.delete(oldest);
      bytes -= entry.bytes;
    }
    return made;
  }

  async #bent(document: TazzelDocument, mask: Mask, level: number, bends: readonly Bend[]): Promise<MadeMask> {
    const { plane, problems } = await this.#made(document, mask, level, []);
    return { plane: await this.pool.run('bend-mask', { plane, bends, level }, { priority: PRIORITY.view }), problems };
  }

  async #make(document: TazzelDocument, mask: Mask, level: number): Promise<MadeMask> {
    const { mask: resolved, needs } = resolveMask(document, mask);
    const found: MaskProblem[] = [];
    const told = new Map<string, MaskProblem>();
    const views: Record<string, MaskView> = {};
    const mattes: Record<string, MatteView> = {};
    const mixtures: Record<string, MixtureView> = {};
    const coverages: Record<string, CoverageView> = {};
    const pictures: Record<string, readonly Plane[]> = {};
    const masks: Record<string, Plane> = {};
    const failed = new Set<string>();
    await Promise.all(
      needs.map(async (need) => {
        const key = needKey(need);
        try {
          if (need.what === 'mask') {
            const inner = findMask(document, need.maskId);
            if (!inner) throw new EngineError('missing-file', 'A mask that this one refers to is gone.');
            // Masks may be stacked higher than calls.
            await null;
            const { plane, problems: inside } = await this.mask(document, inner, level);
            masks[key] = plane;
            // Said with the name of the mask that it is about, however many stand between.
            for (const problem of inside) told.set(`${problem.within ?? inner.name} ${problem.sentence}`, { ...problem, term: null, within: problem.within ?? inner.name });
          } else if (need.what === 'picture') {
            pictures[key] = await this.pictureAfter(unbent(document), need.layerId, level, emptiedFor(document, mask, need.layerId));
          } else if (need.what !== 'camera') {
            const source = findSource(document, need.sourceId) as Source;
            if (need.what === 'view') views[key] = await this.#view(source, level);
            else if (need.what === 'matte') mattes[key] = await this.#matte(source);
            else if (need.what === 'coverage') coverages[key] = { ...(await this.#coverage(coverageRanks(document.sources, source.id))), x: source.x, y: source.y };
            else mixtures[key] = { ...(await this.#mixture(source, rowsOfSource(document, source.id))), x: source.x, y: source.y };
          }
        } catch (error) {
          if (error instanceof Cancelled) throw error;
          failed.add(key);
          found.push({ term: null, sentence: (error as Error).message });
        }
      }),
    );
    // Terms of materials do with what is there; all others need what they read.
    const terms = resolved.terms.filter(({ type, params }) => {
      const spec = termSpec(type);
      return spec.worksInPart === true || !spec.needs(params, document).some((need) => failed.has(needKey(need)));
    });
    const given = await Promise.all(
      terms.map(async (term): Promise<MaskTerm> => {
        if (term.type !== 'paint') return term;
        // Paint goes to the worker as what it looks like: strokes are long, and all but the last one were painted before.
        const { key, plane } = await this.#paint.painted(term.params as unknown as Painted, document.size, level);
        masks[needKey({ what: 'mask', maskId: key })] = plane;
        return { ...term, type: 'mask', params: { mask: key } };
      }),
    );
    const inputs: MaskInputs = { size: document.size, level, views, mattes, mixtures, coverages, pictures, masks, camera: document.camera && cameraOf(document.camera), materials: materialPlaces(document, resolved) };
    const guide = resolved.followEdges ? needs.findLast(({ what }) => what === 'view') : undefined;
    const guideId = guide?.what === 'view' && !failed.has(needKey(guide)) ? guide.sourceId : null;
    const plane = await this.pool.run('mask', { mask: { ...resolved, terms: given }, inputs, guideId }, { priority: PRIORITY.view });
    return { plane, problems: [...found, ...told.values()] };
  }

  /** Where a material is seen through others or mirrored in them, if a second ID picture says so; the largest share of the picture first. */
  async seenBehind(document: TazzelDocument, material: Material): Promise<{ front: Material; area: number }[]> {
    const source = findSource(document, material.sourceId);
    const second = source && behindSource(document, source);
    if (!source || !second) return [];
    const rows = rowsOfSource(document, source.id);
    const mixture = await this.#mixture(second, rows);
    const front = await this.#index(source, rows, document.sources);
    const pixels = await this.pool.run('behind', { front, back: { width: mixture.width, height: mixture.height, data: mixture.index }, row: rows.indexOf(material), count: rows.length });
    const total = front.width * front.height;
    return rows.map((row, i) => ({ front: row, area: pixels[i] / total })).filter(({ area }) => area > LEAST_SHARE).sort((a, b) => b.area - a.area);
  }

  /** Lets go of all masks that are made; they are made again when they are asked for. */
  forget(): void {
    this.#masks.clear();
    this.#paint.forget();
  }

  keepOnly(hashes: ReadonlySet<string>): void {
    this.forget();
    for (const map of [this.#mixtures, this.#coverages, this.#indices, this.#readyIndices]) for (const key of map.keys()) if (!hashes.has(hashOfIdentity(key))) map.delete(key);
  }

  /** The rows of a picture with its index, to outline one. */
  async indexOf(document: TazzelDocument, material: Material): Promise<{ index: SharedIndex; row: number; source: Source } | null> {
    const source = findSource(document, material.sourceId);
    if (!source) return null;
    const rows = rowsOfSource(document, source.id);
    return { index: await this.#index(source, rows, document.sources), row: rows.indexOf(material), source };
  }
}

/** Shares of the picture below this are edges. */
const LEAST_SHARE = 1e-4;

/** The rows of a picture; a picture of what is behind has those of the one in front. */
function rowsOfSource(document: TazzelDocument, sourceId: string): Material[] {
  const own = document.materials.filter((row) => row.sourceId === sourceId);
  if (own.length > 0) return own;
  const front = document.sources.find((source) => behindSource(document, source)?.id === sourceId);
  return front ? document.materials.filter((row) => row.sourceId === front.id) : [];
}

const rowsKey = (source: Source, rows: readonly Material[]) => `${pixelIdentity(source)} ${digest(JSON.stringify(rows.map(({ colorKey }) => colorKey)))}`;

interface FoundRows {
  readonly rows: Material[];
  readonly problems: readonly string[];
}

const isLossy = ({ file }: Source) => file.format === 'jpeg';
const hashKey = ({ sourceId, hash }: { readonly sourceId: string; readonly hash: number }) => `${sourceId} ${hash}`;

/** One list of all rows of a kind, whichever pictures they come from. Names that were only tags follow them. */
function renumbered(materials: readonly Material[]): Material[] {
  const kinds = (['material', 'object'] as const).map((kind) => {
    const own = materials.filter((row) => row.kind === kind);
    const tags = tagsOf(kind, own.length);
    return own.map((row, i) => ({ ...row, id: `${kind}-${i + 1}`, tag: tags[i], name: row.name === row.tag ? tags[i] : row.name }));
  });
  return kinds.flat();
}

/** What is being made is not made twice; what failed may be tried again. */
function once<T>(map: Map<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  let made = map.get(key);
  if (!made) {
    made = make();
    map.set(key, made);
    made.catch(() => map.delete(key));
  }
  return made;
}
