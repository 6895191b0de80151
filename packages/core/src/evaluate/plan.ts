/**
 * A document turned into pictures that depend on each other: what is switched off is gone, parameters are prepared, conversions between
 * light and display values stand where they are needed, and everything has a key made of all it depends on.
 *
 * Most of a build-up is one run of steps, pixel by pixel. Where something reads across pixels the run is cut: what lies below becomes a
 * picture of its own, which the operation reads, and the next run goes on from there.
 */
import { cameraOf } from '../camera/camera.ts';
import { viewOfCamera } from '../camera/view.ts';
import { plannedTone } from '../tone/apply.ts';
import type { Domain, Neighbourhood, NeighbourhoodCorrection, PointCorrection } from '../corrections/define.ts';
import { correctionById, correctionLabel, isCorrectionId } from '../corrections/registry.ts';
import type { Zone } from '../color/zones.ts';
import { bendOf, unbent } from '../document/bends.ts';
import { knownLayer, placementOf, problemOf } from '../document/layers.ts';
import { newMask, newTerm } from '../document/mask-edits.ts';
import type { Beginning, Computed, Covering, PatchBlur, Standee } from '../layers/define.ts';
import { prepareFill } from '../layers/fill-pixel.ts';
import type { CorrectionLayer, CorrectionUse, GroupLayer, Layer, Mask, MaskUse, PictureLayer, Placement, Source, TazzelDocument } from '../model/model.ts';
import { findMask, findSource, focusSource, holdsLayer } from '../model/query.ts';
import { correctionBlend, isOfferedIn } from '../blend/correction-blends.ts';
import { CoreError } from '../errors.ts';
import { completeParams, type KeptValues, type ParamTable } from '../params/table.ts';
import { digest } from '../digest.ts';
import { remembered } from '../remembered.ts';
import type { Region } from '../raster/region.ts';
import { keyOfMask } from './mask-keys.ts';
import { isEmpty, placeOf, PlanGraph, type Run } from './plan-graph.ts';
import { PlannedLight } from './plan-light.ts';
import type { AffineMap, PictureMap } from '../raster/affine.ts';
import { type Bend, projective } from '../raster/bend.ts';
import { type ConvertStep, keyAt, type LayerStep, type Place, type Plan, type PlannedBlend, type PlannedCorrection, type PlannedMask, type PlannedRead, type SeenMask, type SpanAction } from './steps.ts';

export interface PlanOptions {
  /** Stop after this layer (and pass the tone line if it lies below it). */
  readonly upto?: string;
  /** Only this layer with its chain, or this group, opaque, without mask: its own picture. */
  readonly only?: string;
  /** Sources that cannot be read; layers that show them are passed over. */
  readonly missing?: ReadonlySet<string>;
  /** Masks that count as empty: a mask that reads a picture it has a part in reads it as it is without that part. */
  readonly emptied?: ReadonlySet<string>;
}

/** @throws CoreError `missing-source`, `missing-mask`, `unknown-operation` for documents that did not pass the schema */
export const planDocument = (document: TazzelDocument, options: PlanOptions = {}): Plan => new Planner(document, options).plan();

/**
 * The identity of a mask's coverage: everything that it depends on, and no names. Masks that refer to each other in a circle get a key as
 * well, and whoever evaluates them says what is wrong.
 */
export const maskKey = (document: TazzelDocument, mask: Mask): string => keyOfMask(document, mask, pictureKey);

/** The key of coverage that was bent since. */
export const bentKey = (key: string, bends: readonly Bend[]): string => (bends.length === 0 ? key : digest(JSON.stringify([key, bends])));

const keysOfPictures = remembered((_: TazzelDocument) => new Map<string, string | null>());

function pictureKey(document: TazzelDocument, layerId: string, emptied: ReadonlySet<string>): string | null {
  // A mask lies on the render, and so does what it reads.
  const straight = unbent(document);
  const keys = keysOfPictures(straight);
  const id = [layerId, ...emptied].join('\n');
  let key = keys.get(id);
  if (key === undefined) {
    try {
      const plan = planDocument(straight, { upto: layerId, emptied });
      key = keyAt(plan, plan.result);
    } catch (error) {
      if (!(error instanceof CoreError)) throw error;
      key = null;
    }
    keys.set(id, key);
  }
  return key;
}

/** What was prepared for a set of parameters: these never change. */
interface Prepared {
  readonly params: KeptValues;
  readonly isNoOp: boolean;
  readonly tableKey: string;
  /** Of a correction of points. */
  table: Float32Array | null;
  /** Of one that reads across pixels. */
  spread: Neighbourhood | null;
}
const preparedFor = remembered((_: CorrectionUse['params']) => new Map<string, Prepared>());

/** So far from an edge nothing of the building is in a pixel of sky, as filters of renderers go; and so far, as a share of the width, the sky is looked for. Common practice, no published source. */
const [SKY_MARGIN_PX, SKY_SPREAD] = [1.5, 0.015];

/** One everywhere. */
const ONE = { shape: 'plain', from: [1, 1, 1, 1], to: [1, 1, 1, 1], start: [0, 0], end: [0, 1] } as const;
const WHITE: Computed = { kind: 'formula', formula: 'fill', prepared: prepareFill(ONE), of: ONE, reads: [] };
/** Where a correction is seen: everywhere, if its mask says which light it takes. */
const seenWithin = ({ spread }: Prepared, mask: MaskUse | null): MaskUse | null => (spread && 'fromMask' in spread && spread.fromMask ? null : mask);

/** Below this share of its size a layer is not there any more. */
const LEAST_SCALE = 1e-3;
const isUnplaced = ({ offsetX, offsetY, scaleX, scaleY, rotationDegrees }: Placement) => offsetX === 0 && offsetY === 0 && scaleX === 1 && scaleY === 1 && rotationDegrees % 360 === 0;

/** Where in the build-up a list of layers stands. */
interface Among {
  readonly run: Run;
  readonly zone: Zone;
  /** Where the outermost open group around them began. */
  readonly start: Place | null;
  /** They are shown because their group is what is looked at. */
  readonly all: boolean;
  readonly isTop: boolean;
}

class Planner {
  readonly #graph: PlanGraph;
  readonly #before: Record<string, Place> = {};
  readonly #after: Record<string, Place> = {};
  readonly #masks: Record<string, SeenMask> = {};
  readonly #sources = new Set<string>();
  readonly #problems = new Set<string>();
  readonly #snapshots = new Map<string, number>();
  readonly #metres = new Map<string, number>();
  readonly #light: PlannedLight;
  /** What stands in the picture so far, in front of the render. */
  readonly #standing: Standee[] = [];
  /** Nodes that others read as well as the picture itself. */
  readonly #shared = new Set<number>();
  /** What has bent the picture so far, the first one first. */
  #bends: readonly Bend[] = [];
  #isDone = false;
  /** What is planned is the picture itself, not one that a layer shows. */
  #isMain = true;
  #upto: string | undefined;
  #only: string | undefined;

  constructor(
    readonly document: TazzelDocument,
    readonly options: PlanOptions,
  ) {
    this.#graph = new PlanGraph(document);
    this.#upto = options.upto;
    this.#only = options.only;
    this.#light = new PlannedLight(document, this.#graph, {
      take: (sourceId) => !options.missing?.has(sourceId) && Boolean(this.#sources.add(sourceId)),
      denoised: (node, params) => this.#denoised(node, params),
    });
  }

  plan(): Plan {
    const { scene, picture } = this.document.buildUp;
    const run = this.#graph.begin(null);
    this.#layers(scene, { run, zone: 'scene', start: null, all: false, isTop: true });
    let light: Place | null = null;
    const tone = () => {
      light ??= placeOf(run);
      this.#graph.push(run, { kind: 'tone', tone: plannedTone(this.document.tone) });
    };
    if (!this.#isDone && picture.length > 0) {
      tone();
      this.#layers(picture, { run, zone: 'picture', start: null, all: false, isTop: true });
    }
    if (light === null) tone();
    return { size: this.document.size, nodes: this.#graph.nodes, light: light as unknown as Place, shared: [...this.#shared], result: placeOf(run), before: this.#before, after: this.#after, masks: this.#masks, sources: [...this.#sources], problems: [...this.#problems] };
  }

  #mask(use: MaskUse | null): PlannedMask | null {
    if (!use?.enabled) return null;
    const mask = findMask(this.document, use.maskId);
    if (!mask) throw new CoreError('missing-mask', `The mask ${use.maskId} is missing.`);
    const isEmptied = this.options.emptied?.has(mask.id) === true;
    return { key: this.#keyOf(isEmptied ? { ...mask, terms: [] } : mask), inverted: use.inverted };
  }

  /** The key of a mask where the picture has been bent to by now. */
  #keyOf(mask: Mask): string {
    const bends = this.#bends;
    const key = bentKey(maskKey(this.document, mask), bends);
    this.#masks[key] = { mask, bends };
    return key;
  }

  /** A correction that does something, with its numbers. One of a later version stays in the document and does nothing. */
  #prepared(use: CorrectionUse, opacity: number): { spec: ReturnType<typeof correctionById>; prepared: Prepared } | null {
    if (opacity === 0 || !isCorrectionId(use.type)) return null;
    const spec = correctionById(use.type);
    const { size } = this.document;
    const id = `${use.type} ${size.width}×${size.height}`;
    const known = preparedFor(use.params);
    let prepared = known.get(id);
    if (!prepared) {
      const params = completeParams(spec, use.params);
      prepared = { params, isNoOp: spec.isNoOp(params), tableKey: `${id} ${JSON.stringify(params)}`, table: null, spread: null };
      known.set(id, prepared);
    }
    return prepared.isNoOp ? null : { spec, prepared };
  }

  /** A blend that is not offered for those numbers takes all, and that is said. */
  #blend({ type, blend }: CorrectionUse, zone: Zone): PlannedBlend {
    if (blend === 'all') return null;
    if (isOfferedIn(blend, zone)) return { id: blend, zone };
    this.#problems.add(`${correctionLabel(type)}: “${correctionBlend(blend).label}” means nothing in light, which has no upper end. All of it is taken.`);
    return null;
  }

  /** Elements that are read beside; null if one is missing that it cannot do without, which is said. */
  #reads(spec: Pick<PointCorrection<ParamTable>, 'reads' | 'label'>): (PlannedRead | null)[] | null {
    const reads: (PlannedRead | null)[] = [];
    for (const read of spec.reads ?? []) {
      const source = read.roles.map((role) => this.document.sources.find((each) => each.role === role && !this.options.missing?.has(each.id))).find((each) => each !== undefined);
      if (!source && !read.isOptional) {
        this.#problems.add(`${spec.label}: the document has no ${read.label}, and without it nothing is changed. Add that element of the render.`);
        return null;
      }
      if (source) this.#sources.add(source.id);
      reads.push(source ? { sourceId: source.id, load: source.encoding === 'display' ? 'to-light' : 'as-is' } : null);
    }
    return reads;
  }

  #point(spec: PointCorrection<ParamTable>, prepared: Prepared, opacity: number, mask: MaskUse | null, blend: PlannedBlend): PlannedCorrection | null {
    const reads = this.#reads(spec);
    if (!reads) return null;
    prepared.table ??= spec.prepare(prepared.params, this.document.size);
    return { type: spec.id, blend, prepared: prepared.table, tableKey: prepared.tableKey, opacity, mask: this.#mask(mask), reads, isPlaced: spec.isPlaced === true };
  }

  /** The picture that a neighbourhood operation makes of another one. */
  #spread(spec: NeighbourhoodCorrection<ParamTable>, prepared: Prepared, input: number, mask: MaskUse | null): number {
    prepared.spread ??= spec.spread(prepared.params, this.document.size);
    const wanted = prepared.spread;
    if ('staysInside' in wanted) {
      const { staysInside, ...spread } = wanted;
      return this.#graph.add({ ...spread, input, within: staysInside ? this.#mask(mask) : null });
    }
    if ('fromMask' in wanted) {
      const { fromMask, ...scattering } = wanted;
      return this.#graph.add({ ...scattering, input, from: fromMask ? this.#mask(mask) : null });
    }
    if (wanted.kind === 'focus') {
      const source = focusSource(this.document);
      if (!source || this.options.missing?.has(source.id)) {
        this.#problems.add(`${spec.label}: the document has no depth in metres, and without it nothing is blurred. Add the depth element of the render and say how it is scaled, or soften along a line with Tilt blur.`);
        return input;
      }
      this.#sources.add(source.id);
      const { camera, size } = this.document;
      const view = source.role === 'distance' && camera ? viewOfCamera(cameraOf(camera), size) : null;
      return this.#graph.add({ ...wanted, input, sides: { node: this.#sides(source) }, axis: view && { x: view.axisX, y: view.axisY, focalPx: view.focalPx } });
    }
    if (wanted.kind === 'smooth') {
      const { guideWidths, ...smoothing } = wanted;
      const reads = guideWidths.length > 0 ? (this.#reads(spec) ?? []) : [];
      const guides = reads.flatMap((read, i) => (read ? [{ node: this.#element(read), width: guideWidths[i] }] : []));
      return this.#graph.add({ ...smoothing, input, guides });
    }
    return this.#graph.add({ ...wanted, input });
  }

  /** A light group without its grain. */
  #denoised(node: number, strengthPercent: number): number {
    const spec = correctionById('noise-reduction');
    const params = completeParams(spec, { strengthPercent });
    return spec.work === 'neighbourhood' && !spec.isNoOp(params) ? this.#spread(spec, { params, isNoOp: false, tableKey: '', table: null, spread: null }, node, null) : node;
  }

  /** An element as a picture of its own, as what it is. */
  #element({ sourceId, load }: PlannedRead, actions: readonly SpanAction[] = []): number {
    const run = this.#graph.begin(null);
    this.#graph.push(run, { kind: 'layer', layerId: sourceId, from: { kind: 'source', sourceId }, load, actions, blend: 'normal', zone: 'scene', opacity: 1, mask: null });
    return this.#graph.cut(run);
  }

  /** Light of a picture where it lies, which need not be where the document does. */
  #pictureLight({ id, encoding, scale, offset, x, y, width, height, fit }: Source): number {
    const run = this.#graph.begin(null, { x, y, ...(fit ?? { width, height }) });
    const isScaled = scale !== 1 || offset !== 0;
    const isShown = encoding === 'display';
    // Numbers are scaled as they are stored, before they become light.
    const actions: SpanAction[] = isScaled ? [{ kind: 'scale', scale, offset }, ...(isShown ? [{ kind: 'to-light' } as const] : [])] : [];
    this.#graph.push(run, { kind: 'layer', layerId: id, from: { kind: 'source', sourceId: id }, load: isShown && !isScaled ? 'to-light' : 'as-is', actions, blend: 'normal', zone: 'scene', opacity: 1, mask: null });
    return this.#graph.cut(run);
  }

  /** Near and far of an element of metres: one node, whoever reads it. */
  #sides({ id, role, scale, offset }: Source): number {
    const key = `${id} ${this.#standing.length}`;
    const known = this.#metres.get(key);
    if (known !== undefined) return known;
    const input = this.#element({ sourceId: id, load: 'as-is' }, scale === 1 && offset === 0 ? [] : [{ kind: 'scale', scale, offset }]);
    let node = this.#graph.add({ kind: 'sides', input });
    for (const { sides } of this.#standing) node = sides(node, role !== 'distance');
    this.#metres.set(key, node);
    return node;
  }

  #coveredBy({ id }: Source): Covering {
    const alone = () => this.#element({ sourceId: id, load: 'as-is' });
    const covered = this.#standing.length === 0 ? null : this.#standing.reduce((node, { cover }) => cover(node), alone());
    return {
      factor: { from: covered === null ? { kind: 'source', sourceId: id } : { kind: 'picture', node: covered }, scale: null, load: 'as-is', isGrey: true },
      node: () => covered ?? alone(),
      // The building is grown first, then it is turned into its sky.
      sky: { ...newMask('sky', 'Sky', [newTerm('alpha', 'add', this.document, { source: id })]), inverted: true, growPx: SKY_MARGIN_PX },
    };
  }

  /** Where the mask of a layer is not. */
  #coveredByMask({ id, mask: use }: PictureLayer): Covering | null {
    const mask = use?.enabled ? findMask(this.document, use.maskId) : null;
    if (!use || !mask || this.#only === id) return null;
    const run = this.#graph.begin(null);
    this.#graph.push(run, { kind: 'layer', layerId: id, from: WHITE, load: 'as-is', actions: [], blend: 'normal', zone: 'scene', opacity: 1, mask: this.#mask({ ...use, inverted: !use.inverted }) });
    const node = this.#graph.cut(run);
    const inverted = mask.inverted !== use.inverted;
    return { factor: { from: { kind: 'picture', node }, scale: null, load: 'as-is', isGrey: true }, node: () => node, sky: { ...mask, inverted, growPx: mask.growPx + (inverted ? SKY_MARGIN_PX : -SKY_MARGIN_PX) } };
  }

  /** What is all sky, spread to where something stands before it. */
  #oldSky(input: number, { sky }: Covering): number {
    return this.#graph.add({ kind: 'gaussian', input, sigmaPx: SKY_SPREAD * this.document.size.width, within: { key: this.#keyOf(sky), inverted: false } });
  }

  /** Where the pixels of a layer come from, and in which numbers they are; null if it shows nothing. */
  #origin(layer: PictureLayer, { run, zone }: Pick<Among, 'run' | 'zone'>): Beginning | null {
    const known = knownLayer(layer);
    if (!known) return null;
    const problem = problemOf(this.document, layer);
    if (problem) {
      this.#problems.add(`${layer.name}: ${problem}`);
      return null;
    }
    return known.spec.origin(known.values, {
      document: this.document,
      zone,
      source: (sourceId) => {
        const source = findSource(this.document, sourceId);
        if (!source) throw new CoreError('missing-source', `The layer “${layer.name}” refers to an element that is not in the document.`);
        if (this.options.missing?.has(source.id)) return null;
        this.#sources.add(source.id);
        return source;
      },
      sides: (source) => this.#sides(source),
      below: (inAnyZone = false) => ((zone === 'picture' && !inAnyZone) || isEmpty(run) ? null : this.#graph.cut(run)),
      warped: (input, map) => this.#warped(input, map),
      healed: (input, map, reachPx) => this.#healed(layer, zone, input, map, reachPx),
      moved: (input, map, healing, reachPx, blur) => this.#moved(layer, zone, input, map, healing, reachPx, blur),
      filled: (input, reachPx) => this.#membrane(layer, input, null, reachPx) ?? input,
      around: (source, view, turnRadians) => this.#graph.add({ kind: 'sphere', input: this.#pictureLight(source), view, turnRadians }),
      placed: (source, map) => this.#graph.add({ kind: 'warp', input: this.#pictureLight(source), map, filter: 'mitchell' }),
      coveredBy: (alpha) => this.#coveredBy(alpha),
      coveredByMask: () => this.#coveredByMask(layer),
      oldSky: (picture, covering) => this.#oldSky(picture, covering),
      smeared: (input, towards, reachPx) => this.#graph.add({ kind: 'smear', input, towards, reachPx }),
      softened: (input, sigmaPx) => this.#graph.add({ kind: 'gaussian', input, sigmaPx, within: null }),
      element: (source) => this.#element({ sourceId: source.id, load: source.encoding === 'display' ? 'to-light' : 'as-is' }, source.scale === 1 && source.offset === 0 ? [] : [{ kind: 'scale', scale: source.scale, offset: source.offset }]),
      alone: (source) => this.#pictureLight(source),
      kept: (from) => this.#kept(layer.id, from),
      figures: (node) => this.#graph.add({ kind: 'figures', ...node }),
      trails: (node) => this.#graph.add({ kind: 'trails', ...node }),
      stand: (what) => {
        if (this.#isMain && this.#only === undefined) this.#standing.push(what);
      },
      light: (kinds) => this.#light.ofKinds(kinds),
      pictureAfter: (layerId) => this.#pictureAfter(layerId, zone),
      mixed: (mix) => this.#light.mixed(mix),
      relit: (sourceId) => this.#light.relit(sourceId),
    });
  }

  /** A picture seen elsewhere, as sharp as it was. */
  #warped(input: number, map: PictureMap): number {
    if ('homography' in map) return this.#graph.add({ kind: 'bend', input, bend: projective(map.homography) });
    return this.#graph.add({ kind: 'warp', input, map, filter: 'lanczos' });
  }

  /** A patch in the light and colour that a picture has around a layer's mask; without a patch, those alone. Null without a mask: there is nothing around it. */
  #membrane({ id, mask }: PictureLayer, input: number, patch: number | null, reachPx: number): number | null {
    const inside = this.#only === id ? null : this.#mask(mask);
    return inside && this.#graph.add({ kind: 'membrane', input, patch: patch === null ? null : { node: patch }, within: { ...inside, inverted: !inside.inverted }, sigmaPx: reachPx / 2 });
  }

  /** Another place of a picture, in the light and colour that there is around a layer's mask. */
  #healed(layer: PictureLayer, zone: Zone, input: number, map: PictureMap, reachPx: number): number {
    const filled = this.#membrane(layer, input, null, reachPx);
    // Alone on its card it is what it takes.
    if (filled === null) return this.#warped(input, map);
    // The spot itself is smoothed over first, so that nothing of it is taken.
    const run = this.#graph.begin(input);
    this.#graph.push(run, { kind: 'layer', layerId: layer.id, from: { kind: 'picture', node: filled }, load: 'as-is', actions: [], blend: 'normal', zone, opacity: 1, mask: this.#mask(layer.mask) });
    const patch = this.#warped(this.#graph.cut(run), map);
    return this.#membrane(layer, input, patch, reachPx) ?? patch;
  }

  /** What a layer's mask covers, elsewhere; its old place healed, or as what lies around it. */
  #moved(layer: PictureLayer, zone: Zone, input: number, map: PictureMap, healing: PictureMap | null, reachPx: number, { softPx, way }: PatchBlur): number {
    const inside = this.#only === layer.id ? null : this.#mask(layer.mask);
    if (inside === null) return this.#warped(input, map);
    const mended = healing ? this.#healed(layer, zone, input, healing, reachPx) : (this.#membrane(layer, input, null, reachPx) ?? input);
    const laid = (run: Run, node: number, mask: PlannedMask | null) => this.#graph.push(run, { kind: 'layer', layerId: layer.id, from: { kind: 'picture', node }, load: 'as-is', actions: [], blend: 'normal', zone, opacity: 1, mask });
    const cutOut = this.#graph.begin(null);
    laid(cutOut, input, inside);
    const elsewhere = this.#warped(this.#graph.cut(cutOut), map);
    const soft = softPx > 0 ? this.#graph.add({ kind: 'gaussian', input: elsewhere, sigmaPx: softPx, within: null }) : elsewhere;
    const patch = way[0] === 0 && way[1] === 0 ? soft : this.#graph.add({ kind: 'drift', input: soft, way, within: null });
    const run = this.#graph.begin(input);
    laid(run, mended, inside);
    laid(run, patch, null);
    return this.#graph.cut(run);
  }

  /** The picture after another layer, planned by itself: results on the way are those of the picture itself. */
  #pictureAfter(layerId: string, zone: Zone): number {
    const id = `${layerId} ${zone}`;
    const known = this.#snapshots.get(id);
    if (known !== undefined) return known;
    const outside = [this.#upto, this.#only, this.#isDone, this.#isMain, this.#bends] as const;
    [this.#upto, this.#only, this.#isDone, this.#isMain, this.#bends] = [layerId, undefined, false, false, []];
    const { buildUp, tone } = this.document;
    const run = this.#graph.begin(null);
    this.#layers(buildUp.scene, { run, zone: 'scene', start: null, all: false, isTop: true });
    if (zone === 'picture') {
      this.#graph.push(run, { kind: 'tone', tone: plannedTone(tone) });
      if (!this.#isDone) this.#layers(buildUp.picture, { run, zone: 'picture', start: null, all: false, isTop: true });
    }
    [this.#upto, this.#only, this.#isDone, this.#isMain, this.#bends] = outside;
    const node = this.#graph.cut(run);
    this.#shared.add(node);
    this.#snapshots.set(id, node);
    return node;
  }

  /** Pixels on their way from where they are stored to where they are blended; null if there are none. */
  #layerPicture(layer: PictureLayer, among: Among): (Pick<LayerStep, 'from' | 'load' | 'actions'> & { readonly holdsMask: boolean; readonly beneath: number | null }) | null {
    const { zone } = among;
    const origin = this.#origin(layer, among);
    if (!origin) return null;
    let { from, domain, bounded } = origin;
    let load: LayerStep['load'] = 'as-is';
    let actions: SpanAction[] = [];
    const zoneDomain = zone === 'scene' ? 'light' : 'display';
    const convert = (wanted: Domain) => {
      if (wanted === 'as-found' || domain === wanted) return;
      if (wanted === 'light' && actions.length === 0 && from.kind === 'source') load = 'to-light';
      else actions.push({ kind: wanted === 'light' ? 'to-light' : 'to-display' });
      bounded = wanted === 'display';
      domain = wanted;
    };
    /** What there is so far, as a picture that something reads across pixels. */
    const asRun = (domain: Region | null = null) => {
      const run = this.#graph.begin(null, domain);
      this.#graph.push(run, { kind: 'layer', layerId: layer.id, from, load, actions, blend: 'normal', zone, opacity: 1, mask: null });
      return run;
    };
    const goOnFrom = (node: number) => {
      [from, load, actions] = [{ kind: 'picture', node }, 'as-is', []];
    };
    if (origin.scale) actions.push(origin.scale);
    if (origin.times) {
      convert('light');
      actions.push({ kind: 'scale', scale: 1, offset: origin.times.plus }, { kind: 'multiply', node: origin.times.node });
      bounded = false;
    }
    const placement = placementOf(layer);
    if (placement && !isUnplaced(placement)) {
      if (Math.abs(placement.scaleX) < LEAST_SCALE || Math.abs(placement.scaleY) < LEAST_SCALE) {
        this.#problems.add(`${layer.name}: it is scaled to nothing. Give it a size, or reset where it lies.`);
        return null;
      }
      // Light is filtered as light.
      if (zone === 'scene') convert('light');
      goOnFrom(this.#warp(this.#graph.cut(asRun(origin.domainRegion)), placement, origin.domainRegion ?? { x: 0, y: 0, ...this.document.size }));
      // Filters with negative lobes go beyond black and white at edges.
      bounded = false;
    }
    for (const link of layer.chain) {
      const found = link.visible ? this.#prepared(link, link.opacity) : null;
      if (!found) continue;
      const { spec, prepared } = found;
      convert(spec.domain === 'as-found' && link.blend !== 'all' ? zoneDomain : spec.domain);
      if (spec.work === 'points') {
        const correction = this.#point(spec, prepared, link.opacity, link.mask, this.#blend(link, domain === 'light' ? 'scene' : 'picture'));
        if (!correction) continue;
        actions.push({ kind: 'correct', correction });
        bounded = false;
        continue;
      }
      const run = asRun();
      this.#goOver(run, layer.id, this.#spread(spec, prepared, this.#graph.cut(run), link.mask), link.opacity, seenWithin(prepared, link.mask), this.#blend(link, domain === 'light' ? 'scene' : 'picture'));
      goOnFrom(this.#graph.cut(run));
    }
    convert(zoneDomain);
    if (zone === 'picture' && !bounded) actions.push({ kind: 'clamp' });
    return { from, load, actions, holdsMask: origin.holdsMask === true, beneath: origin.beneath ?? null };
  }

  /** The light of a formula as a run that is kept. */
  #kept(layerId: string, from: Computed): number {
    const run = this.#graph.begin(null);
    this.#graph.push(run, { kind: 'layer', layerId, from, load: 'as-is', actions: [], blend: 'normal', zone: 'scene', opacity: 1, mask: null });
    const node = this.#graph.cut(run);
    this.#shared.add(node);
    return node;
  }

  /** A picture scaled, turned and moved around the middle of a rectangle. */
  #warp(input: number, { offsetX, offsetY, scaleX, scaleY, rotationDegrees, filter }: Placement, { x, y, width, height }: Region): number {
    const angle = (rotationDegrees * Math.PI) / 180;
    // Quarter turns are exact.
    const [cos, sin] = rotationDegrees % 90 === 0 ? [Math.round(Math.cos(angle)), Math.round(Math.sin(angle))] : [Math.cos(angle), Math.sin(angle)];
    const [cx, cy] = [x + width / 2, y + height / 2];
    // From places in the picture back to places in the input.
    const inverse = [cos / scaleX, sin / scaleX, -sin / scaleY, cos / scaleY] as const;
    const [toX, toY] = [cx + offsetX, cy + offsetY];
    const map = [...inverse, cx - inverse[0] * toX - inverse[1] * toY, cy - inverse[2] * toX - inverse[3] * toY] as unknown as AffineMap;
    return this.#graph.add({ kind: 'warp', input, map, filter });
  }

  /** The run goes over to another picture. Where nothing of its own remains, it need not even be made. */
  #goOver(run: Run, layerId: string, node: number, opacity: number, mask: MaskUse | null, blend: PlannedBlend): void {
    const planned = this.#mask(mask);
    if (opacity === 1 && planned === null && blend === null) this.#graph.goOnFrom(run, node);
    else this.#graph.push(run, { kind: 'replace', layerId, node, blend, opacity, mask: planned });
  }

  #pictureLayer(layer: PictureLayer, among: Among): void {
    const { run, zone } = among;
    const shown = this.#layerPicture(layer, among);
    if (!shown) return;
    const { holdsMask, beneath, ...picture } = shown;
    const own = this.#only === layer.id;
    if (beneath !== null && !own) this.#goOver(run, layer.id, beneath, layer.opacity, layer.mask, null);
    this.#graph.push(run, { kind: 'layer', layerId: layer.id, ...picture, blend: own ? 'normal' : layer.blend, zone, opacity: own ? 1 : layer.opacity, mask: own || holdsMask ? null : this.#mask(layer.mask) });
  }

  #correction(layer: CorrectionLayer, { run, zone }: Among): void {
    const found = this.#prepared(layer.correction, layer.opacity);
    if (!found) return;
    const { spec, prepared } = found;
    if (spec.work === 'points') {
      const correction = this.#point(spec, prepared, layer.opacity, layer.mask, this.#blend(layer.correction, zone));
      if (correction) this.#graph.push(run, { kind: 'correct', layerId: layer.id, zone, throughLight: zone === 'picture' && spec.domain === 'light', correction });
    } else if (!isEmpty(run)) {
      const below = this.#graph.cut(run);
      const throughLight = zone === 'picture' && spec.domain === 'light';
      const made = this.#spread(spec, prepared, throughLight ? this.#converted(below, 'decode') : below, layer.mask);
      this.#goOver(run, layer.id, throughLight ? this.#converted(made, 'encode') : made, layer.opacity, seenWithin(prepared, layer.mask), this.#blend(layer.correction, zone));
      const bend = bendOf(layer, this.document.size);
      if (bend) this.#bends = [...this.#bends, bend];
    }
  }

  /** A picture in the other numbers. */
  #converted(node: number, direction: ConvertStep['direction']): number {
    const run = this.#graph.begin(node);
    this.#graph.push(run, { kind: 'convert', direction });
    return this.#graph.cut(run);
  }

  #group(group: GroupLayer, among: Among): void {
    const { run, zone, start } = among;
    const own = this.#only === group.id;
    const mask = own ? null : this.#mask(group.mask);
    const isolated = group.isolated || own;
    const [blend, opacity] = own ? ['normal', 1] : [group.blend, group.opacity];
    const within = { zone, all: own || among.all, isTop: false };
    // A group that changes nothing about its layers is only a way to read the build-up.
    if (!isolated && opacity === 1 && mask === null) {
      this.#layers(group.layers, { ...within, run, start });
      return;
    }
    if (this.#readsAcross(group)) {
      // Its layers are a picture beside: what reads across pixels cannot stand in the middle of a run.
      const below = isolated || isEmpty(run) ? null : this.#graph.cut(run);
      const inner = this.#graph.begin(below);
      // What is bent in it is not what lies below.
      const outside = this.#bends;
      this.#layers(group.layers, { ...within, run: inner, start: placeOf(run) });
      this.#bends = outside;
      if (inner.steps.length === 0 && inner.base === below) return;
      const node = this.#graph.cut(inner);
      if (isolated) this.#graph.push(run, { kind: 'layer', layerId: group.id, from: { kind: 'picture', node }, load: 'as-is', actions: zone === 'picture' ? [{ kind: 'clamp' }] : [], blend, zone, opacity, mask });
      else this.#graph.push(run, { kind: 'replace', layerId: group.id, node, blend: null, opacity, mask });
      return;
    }
    const opening = placeOf(run);
    this.#graph.push(run, { kind: 'open-group', isolated });
    const opened = run.steps.length;
    this.#layers(group.layers, { ...within, run, start: start ?? opening });
    if (run.steps.length === opened) {
      this.#graph.pop(run);
    } else this.#graph.push(run, { kind: 'close-group', layerId: group.id, isolated, blend, zone, opacity, mask });
  }

  /** Whether a correction of everything below it inside a group is a neighbourhood operation, or a layer reads what lies below it. */
  #readsAcross({ layers }: GroupLayer): boolean {
    return layers.some((layer) => {
      if (!layer.visible) return false;
      if (layer.kind === 'group') return this.#readsAcross(layer);
      if (layer.kind === 'correction') return this.#prepared(layer.correction, layer.opacity)?.spec.work === 'neighbourhood';
      return knownLayer(layer)?.spec.readsBelow === true;
    });
  }

  #layers(layers: readonly Layer[], among: Among): void {
    const [only, upto] = [this.#only, this.#upto];
    for (const layer of layers) {
      if (this.#isDone) return;
      const isOnly = layer.id === only;
      const shown = isOnly || (layer.visible && layer.opacity > 0 && (only === undefined || among.all));
      // On the way to a layer that is looked at alone, groups are only walked through.
      if (layer.kind === 'group' && only !== undefined && !among.all && !isOnly) this.#layers(layer.layers, { ...among, isTop: false });
      else if (shown) {
        if (this.#isMain) this.#before[layer.id] = among.start ?? placeOf(among.run);
        if (layer.kind === 'group') this.#group(layer, among);
        else if (layer.kind !== 'correction') this.#pictureLayer(layer, among);
        else if (only === undefined || among.all) this.#correction(layer, among);
      }
      if (among.isTop && this.#isMain) this.#after[layer.id] = placeOf(among.run);
      if (layer.id === upto || (layer.kind === 'group' && !shown && upto !== undefined && holdsLayer(layer, upto))) this.#isDone = true;
    }
  }
}
