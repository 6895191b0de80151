/**
 * The document's border: whatever comes from a file, the storage or a message passes here.
 * Whole documents are checked strictly; a damaged one is read as far as it can be, and what was left out is named.
 */
import { isToneId, STRAIGHT_TONE, type ToneUse } from '../tone/registry.ts';
import type * as yup from 'yup';
import type { DocumentCamera } from '../camera/camera.ts';
import type { Zone } from '../color/zones.ts';
import { correctionLabel, isCorrectionId } from '../corrections/registry.ts';
import { isLayerType } from '../layers/registry.ts';
import { CoreError } from '../errors.ts';
import type { DocumentSun } from '../sun/sun.ts';
import { isTermType } from '../masks/registry.ts';
import { readableStrokes } from '../params/strokes.ts';
import { LIMITS, shortened } from '../limits.ts';
import { withIds } from './mask-edits.ts';
import { faultOf, isPictureLayer } from './layers.ts';
import { migrated } from './migrations.ts';
import { type Delivery, type EarlierRender, DOCUMENT_FORMAT, DOCUMENT_VERSION, type GroupLayer, type Layer, type Mask, type MaskTerm, type Material, EMPTY_BOARD, type LightBoard, type LightScenario, MAX_GROUP_DEPTH, type NamedState, NO_SCHEMES, type Override, type Scheme, type Schemes, type Source, type TazzelDocument } from '../model/model.ts';
import { chainOf } from '../model/query.ts';
import { withValue } from './slots.ts';
import { unsoundness } from './sound.ts';
import { boardSchema, cameraSchema, chainCorrection, deliverySchema, frame, layerSchema, maskHead, materialSchema, misfit, renderProblem, samplersSchema, scenarioSchema, schemeSchema, shownSchema, sourceSchema, stateHead, sunSchema, termSchema, toneSchema } from './parts.ts';

export interface ReadDocument {
  readonly document: TazzelDocument;
  /** One sentence for each part that had to be left out; empty for a sound document. */
  readonly problems: readonly string[];
  /** What stays and does nothing, because this version does not know it. */
  readonly remarks: readonly string[];
}

/**
 * Reads a document as far as it can be read: parts that do not fit are left out and named.
 * @throws CoreError `bad-document` if not even name and size can be read, `newer-document` for a later version
 */
export function readDocument(json: unknown): ReadDocument {
  const given = json as Record<string, unknown> | null;
  if (typeof given !== 'object' || given === null || given.format !== DOCUMENT_FORMAT) throw new CoreError('bad-document', 'This is not a Tazzel document: the mark “tazzel-document” is missing.');
  if (typeof given.version === 'number' && given.version > DOCUMENT_VERSION) {
    throw new CoreError('newer-document', `The document was written by a newer version (document version ${given.version}, this program reads up to ${DOCUMENT_VERSION}). Update to open it.`);
  }
  const raw = migrated(given, DOCUMENT_VERSION);
  const problems: string[] = [];
  const { camera: givenCamera = null, sun: givenSun = null, tone: givenTone = null, light: givenLight = EMPTY_BOARD, states: givenStates = [], schemes: givenSchemes = NO_SCHEMES, deliveries: givenDeliveries = [], renders: givenRenders = [], samplers: givenSamplers = [], ...others } = raw;
  const head = { ...others, name: named(raw.name) };
  const headless = misfit(frame, head);
  if (headless) throw new CoreError('bad-document', `The document cannot be read: ${headless}.`);

  /** A part that there may be or not: damaged, there is none. */
  const optional = <T>(given: unknown, schema: yup.Schema, what: string): T | null => {
    const problem = given === null ? null : misfit(schema, given);
    return keep(problem === null, `The ${what} was left out: ${problem}.`) ? (given as T | null) : null;
  };
  const camera = optional<DocumentCamera>(givenCamera, cameraSchema, 'camera');
  const sun = optional<DocumentSun>(givenSun, sunSchema, 'sun');
  const tone = optional<ToneUse>(givenTone, toneSchema, 'curve of the tone line') ?? STRAIGHT_TONE;

  const partsOfState = new Map<string, { masks: unknown; buildUp: unknown }>();
  const seen: Record<string, Set<string>> = {};
  const list = <T extends { id: string; name: string }>(value: unknown, schemaOf: (item: T) => yup.Schema, what: 'element' | 'material' | 'mask' | 'layer' | 'state' | 'scenario' | 'scheme' | 'delivery', most: number, nameLimit: number = LIMITS.name): T[] => {
    if (!Array.isArray(value)) {
      problems.push(`The list of ${severalOf(what)} is missing.`);
      return [];
    }
    seen[what] ??= new Set();
    const ids = seen[what];
    const read: T[] = [];
    let beyond = 0;
    for (const [index, given] of (value as T[]).entries()) {
      if (ids.size >= most) {
        beyond++;
        continue;
      }
      const item = typeof given?.name === 'string' && given.name.length > nameLimit ? { ...given, name: shortened(given.name, nameLimit) } : given;
      const title = `${what} ${typeof item?.name === 'string' && item.name !== '' ? `“${shortened(item.name, 60)}”` : index + 1}`;
      const problem = misfit(schemaOf(item), item);
      if (problem) problems.push(`The ${title} was left out: ${problem}.`);
      else if (ids.has(item.id)) problems.push(`The ${title} was left out: its id ${item.id} occurs twice.`);
      else {
        ids.add(item.id);
        read.push(item);
      }
    }
    if (beyond > 0) problems.push(`${beyond} ${severalOf(what)} were left out: a document holds at most ${most}.`);
    return read;
  };

  // Older documents do not say what was not known then: parts of files, what values mean, fitted sizes.
  const complete = Array.isArray(raw.sources) ? raw.sources.map((item) => (typeof item === 'object' && item !== null ? { part: 0, guess: null, findings: [], scale: 1, offset: 0, inSum: 'auto', fit: null, ...item } : item)) : raw.sources;
  const sources = list<Source>(complete, () => sourceSchema, 'element', LIMITS.sources, LIMITS.elementName);
  const completeRows = Array.isArray(raw.materials) ? raw.materials.map((item) => (typeof item === 'object' && item !== null ? { kind: 'material', surface: null, coverage: null, mean: null, ...item } : item)) : raw.materials;
  const sourceIds = new Set(sources.map(({ id }) => id));
  const materials = list<Material>(completeRows, () => materialSchema, 'material', LIMITS.materials).filter((row) => keep(sourceIds.has(row.sourceId), `The material “${row.name}” was left out: its ID picture is missing.`));
  const termsOf = new Map<string, unknown>();
  const maskHeads = !Array.isArray(raw.masks) ? raw.masks : raw.masks.map((item) => {
    if (typeof item !== 'object' || item === null || typeof item.id !== 'string') return item;
    const { terms, ...rest } = item;
    termsOf.set(item.id, terms);
    return { growPx: 0, featherPx: 0, followEdges: false, inverted: false, strength: 1, ...rest };
  });
  const masks = list<Mask>(maskHeads, () => maskHead, 'mask', LIMITS.masks).map((head): Mask => {
    const given = termsOf.get(head.id);
    const lines = Array.isArray(given) ? given : [];
    if (lines.length > LIMITS.terms) problems.push(`The mask “${head.name}” has ${lines.length} lines; those after ${LIMITS.terms} were left out.`);
    const terms = lines.slice(0, LIMITS.terms).flatMap((item, i): MaskTerm[] => {
      const line = `of the mask “${head.name}”`;
      const whole = typeof item === 'object' && item !== null ? mended({ muted: false, id: `term-${i + 1}`, ...item }, (sentence) => problems.push(`Line ${i + 1} ${line}: ${sentence}`)) : item;
      const problem = misfit(termSchema, whole);
      if (problem) problems.push(`Line ${i + 1} ${line} was left out: ${problem}.`);
      return problem ? [] : [whole as unknown as MaskTerm];
    });
    return { ...head, terms: withIds(terms) };
  });
  const maskIds = new Set(masks.map(({ id }) => id));
  const buildUp = (raw.buildUp ?? {}) as Record<Zone, unknown>;
  const layers = (value: unknown, zone: Zone, depth: number): Layer[] => {
    const inside = new Map<string, unknown>();
    const heads = !Array.isArray(value) ? value : value.map((item) => {
      // Layers were not placed before they could be.
      if (Array.isArray(item?.chain)) return { placement: null, ...item, chain: readable(item.chain, String(item.name)) };
      if (item?.kind !== 'group' || typeof item.id !== 'string') return item;
      const { layers: members, ...head } = item;
      inside.set(item.id, members);
      return head;
    });
    return list<Layer>(heads, (item) => layerSchema(zone, item), 'layer', LIMITS.layers)
      .filter((layer) => {
        const fault = isPictureLayer(layer) ? faultOf({ sources }, layer) : null;
        return keep(fault === null, `The layer “${layer.name}” was left out: ${fault}.`);
      })
      .filter((layer) => layer.kind !== 'group' || keep(depth < MAX_GROUP_DEPTH, `The group “${layer.name}” was left out: groups lie at most ${MAX_GROUP_DEPTH} deep.`))
      .map((layer) => withoutLostMasks(layer.kind === 'group' ? ({ ...layer, layers: layers(inside.get(layer.id), zone, depth + 1) } as GroupLayer) : layer));
  };

  function headOfState(item: unknown): unknown {
    if (typeof item !== 'object' || item === null) return item;
    const { masks: ownMasks, buildUp: ownBuildUp, ...rest } = item as Record<string, unknown>;
    partsOfState.set(String(rest.id), { masks: ownMasks, buildUp: ownBuildUp });
    return rest;
  }

  function keep(condition: boolean, sentence: string): boolean {
    if (!condition) problems.push(sentence);
    return condition;
  }

  /** A damaged correction costs itself and not its layer. */
  function readable(chain: readonly unknown[], layerName: string): unknown[] {
    return chain.filter((link) => {
      const problem = misfit(chainCorrection, link);
      const type = (link as { type?: unknown } | null)?.type;
      return keep(problem === null, `A correction${typeof type === 'string' ? ` (${shortened(type, 40)})` : ''} in the layer “${shortened(layerName, 60)}” was left out: ${problem}.`);
    });
  }

  function withoutLostMasks(layer: Layer): Layer {
    const known = (use: { mask: Layer['mask'] }) => use.mask === null || maskIds.has(use.mask.maskId);
    const fixed = known(layer) ? layer : { ...layer, visible: false, mask: null };
    if (fixed !== layer) problems.push(`The layer “${layer.name}” was switched off: its mask is missing.`);
    if (!isPictureLayer(fixed)) return fixed;
    if (fixed.chain.every(known)) return fixed;
    for (const { type } of fixed.chain.filter((link) => !known(link))) problems.push(`${correctionLabel(type)} in the layer “${layer.name}” was switched off: its mask is missing.`);
    return { ...fixed, chain: fixed.chain.map((c) => (known(c) ? c : { ...c, visible: false, mask: null })) };
  }

  const scene = layers(buildUp.scene, 'scene', 0);
  const picture = layers(buildUp.picture, 'picture', 0);
  const { format, version, id: documentId, name, size } = head as unknown as TazzelDocument;
  const samplers = optional<TazzelDocument['samplers']>(givenSamplers, samplersSchema, 'list of colour samplers') ?? [];
  const { scenarios: givenScenarios = [], ...givenBoard } = (typeof givenLight === 'object' && givenLight !== null ? givenLight : {}) as Partial<LightBoard>;
  const scenarios = list<LightScenario>(givenScenarios, () => scenarioSchema, 'scenario', LIMITS.scenarios);
  const board = optional<Omit<LightBoard, 'scenarios'>>(givenBoard, boardSchema, 'light board') ?? EMPTY_BOARD;
  const keys = board.frames.keys.filter(({ scenarioId }) => keep(scenarios.some(({ id }) => id === scenarioId), 'A moment of the frames was left out: its scenario is missing.'));
  const light: LightBoard = { ...board, scenarios, frames: keys.length === board.frames.keys.length ? board.frames : { ...board.frames, keys } };
  const states = list<NamedState>(Array.isArray(givenStates) ? givenStates.map(headOfState) : givenStates, () => stateHead, 'state', LIMITS.states).map((state): NamedState => {
    // A state is the document with another finish: it is read as one.
    const { masks: ownMasks, buildUp: ownBuildUp } = partsOfState.get(state.id) ?? {};
    const inside = readDocument({ ...raw, masks: ownMasks ?? [], buildUp: ownBuildUp ?? {}, tone: state.tone, light: { ...EMPTY_BOARD, mix: state.mix }, states: [], schemes: NO_SCHEMES, deliveries: [], renders: [], samplers: [], sources, materials });
    problems.push(...inside.problems.map((sentence) => `In the state “${shortened(state.name, 60)}”: ${sentence}`));
    return { ...state, buildUp: inside.document.buildUp, masks: inside.document.masks };
  });
  const { list: givenList = [], ...givenShown } = (typeof givenSchemes === 'object' && givenSchemes !== null ? givenSchemes : {}) as Partial<Schemes>;
  const schemeList = list<Scheme>(givenList, () => schemeSchema, 'scheme', LIMITS.schemes);
  const shown = optional<Omit<Schemes, 'list'>>(givenShown, shownSchema, 'choice of a scheme');
  const isKept = !shown || keep(shown.chosenId === null || schemeList.some(({ id }) => id === shown.chosenId), 'The scheme that was shown is missing: the document stays as it was shown.');
  const schemes: Schemes = schemeList.length === 0 ? NO_SCHEMES : { list: schemeList, ...(shown && isKept ? shown : { chosenId: null, base: [] }) };
  const deliveries = list<Delivery>(givenDeliveries, () => deliverySchema, 'delivery', LIMITS.deliveries);
  const renders = Array.isArray(givenRenders) ? (givenRenders as EarlierRender[]).slice(-LIMITS.renders).filter((render) => {
    const problem = typeof render === 'object' && render !== null ? renderProblem(render) : 'it is no table';
    return keep(problem === null, `The earlier render “${shortened(String(render?.name), 60)}” was left out: ${problem}.`);
  }) : [];
  const found: TazzelDocument = { format, version, id: documentId, name, size, sources, materials, masks, buildUp: { scene, picture }, tone, camera, sun, light, states, schemes, deliveries, renders, samplers };
  /** A value that does not belong where it is set would make the whole scheme one that cannot be shown. */
  const fitting = (overrides: readonly Override[], name: string): readonly Override[] => {
    const kept = overrides.filter((override) => {
      const tried = withValue(found, override, override.value);
      return tried === null || unsoundness(tried) === null;
    });
    return keep(kept.length === overrides.length, `${overrides.length - kept.length} values of the scheme “${shortened(name, 60)}” were left out: they do not fit.`) ? overrides : kept;
  };
  const sound = schemes.list.length === 0 ? schemes : { ...schemes, list: schemes.list.map((scheme) => ({ ...scheme, overrides: fitting(scheme.overrides, scheme.name) })), base: fitting(schemes.base, 'that is shown') };
  return { document: { ...found, schemes: sound }, problems, remarks: [...strangeTone(tone), ...strangersIn([...scene, ...picture]), ...strangeLines(masks)] };
}

/** Corrections and layers of a later version, by the layers that they are or that hold them. */
function strangersIn(layers: readonly Layer[]): string[] {
  return layers.flatMap((layer): string[] => {
    if (layer.kind === 'group') return strangersIn(layer.layers);
    const own = layer.kind === 'picture' && !isLayerType(layer.type) ? [`The layer “${layer.name}” is of a kind that this version does not know (${shortened(layer.type, 40)}). It stays, and shows nothing.`] : [];
    const types = layer.kind === 'correction' ? [layer.correction.type] : chainOf(layer).map(({ type }) => type);
    return [...own, ...types.filter((type) => !isCorrectionId(type)).map((type) => `The layer “${layer.name}” holds a correction that this version does not know (${shortened(type, 40)}). It stays, and does nothing.`)];
  });
}

const strangeTone = ({ type }: ToneUse): string[] => (isToneId(type) ? [] : [`The tone line has a curve that this version does not know (${shortened(type, 40)}). It stays, and is straight.`]);

const strangeLines = (masks: readonly Mask[]): string[] =>
  masks.flatMap(({ name, terms }) => terms.filter(({ type }) => !isTermType(type)).map(({ type }) => `The mask “${name}” holds a line that this version does not know (${shortened(type, 40)}). It stays, and selects nothing.`));

/** Reads a document that must be sound. @throws CoreError `bad-document` naming the first fault */
export function parseDocument(json: unknown): TazzelDocument {
  const { document, problems } = readDocument(json);
  if (problems.length > 0) throw new CoreError('bad-document', problems[0]);
  return document;
}

const severalOf = (what: string) => (what === 'delivery' ? 'deliveries' : `${what}s`);

/** Names that an earlier version let grow too long are shortened; a document without one is called so. */
const named = (name: unknown) => (typeof name === 'string' ? shortened(name) || 'Untitled' : name);

/** A painted line keeps the strokes that can be read. */
function mended(term: Record<string, unknown>, tell: (sentence: string) => void): Record<string, unknown> {
  const params = term.params as Record<string, unknown> | null | undefined;
  if (term.type !== 'paint' || !Array.isArray(params?.strokes)) return term;
  const given = params.strokes as readonly unknown[];
  const strokes = readableStrokes(given);
  const lost = given.length - strokes.length;
  if (lost > 0) tell(`${lost} of ${given.length} strokes cannot be read and were left out.`);
  return strokes.length === given.length && strokes.every((stroke, i) => stroke === given[i]) ? term : { ...term, params: { ...params, strokes } };
}
