/** The shape of every part of a document: what a border lets in, and what an edit may make. */
import * as yup from 'yup';
import { blendModesFor } from '../blend/modes.ts';
import { CAMERA_ORIGINS, camera } from '../camera/camera.ts';
import { ENCODINGS, type Zone } from '../color/zones.ts';
import { CORRECTION_BLENDS } from '../blend/correction-blends.ts';
import { completeParams, type Parametric } from '../params/table.ts';
import { correctionById, isCorrectionId } from '../corrections/registry.ts';
import { FINDING_KINDS } from '../elements/findings.ts';
import { isRoleId } from '../elements/roles.ts';
import { CoreError } from '../errors.ts';
import { lightGroup } from '../light/group.ts';
import { cutFault } from '../raster/cut.ts';
import { isTermType, termSpec } from '../masks/registry.ts';
import { isToneId, toneById } from '../tone/registry.ts';
import type { Size } from '../raster/region.ts';
import { sun } from '../sun/sun.ts';
import { isLayerType, layerSpec } from '../layers/registry.ts';
import { RESAMPLING_FILTERS } from '../raster/filters.ts';
import { SCALE_LIMITS } from './layers.ts';
import { LIMITS, shortened } from '../limits.ts';
import { ALPHA_USES, DELIVERED_SCHEMES, DOCUMENT_FORMAT, DOCUMENT_VERSION, FILE_FORMATS, type EarlierRender, type Layer, LIGHT_PASSAGES, type Material, type Source, SUM_USES, TERM_OPERATIONS } from '../model/model.ts';

const text = (most: number = LIMITS.fileName) => yup.string().strict().defined().max(most, `\${path} has more than ${most} letters`);
const id = () => text(LIMITS.id).min(1);
const number = () => yup.number().strict().defined().test('finite', '${path} must be a finite number', (value) => Number.isFinite(value));
const whole = () => number().integer();
const unit = () => number().min(0).max(1);
const flag = () => yup.boolean().strict().defined();
const side = () => whole().min(1).max(LIMITS.side);
const place = () => whole().min(-LIMITS.coordinate).max(LIMITS.coordinate);
/** Something with a width and a height that is worked on. */
const size = <T extends yup.ObjectShape>(fields: T) =>
  yup.object(fields).test('pixels', '${path}', function check(value) {
    const { width, height } = (value ?? { width: 1, height: 1 }) as unknown as Size;
    return !(width * height > LIMITS.pixels) || this.createError({ message: `\${path} of ${width} × ${height} pixels is too large; up to ${LIMITS.pixels / 2 ** 20} million pixels are worked on` });
  });

const maskUse = yup.object({ maskId: id(), inverted: flag(), enabled: flag() }).noUnknown().strict().nullable().defined();

/** A test in plain code: its sentence says what is wrong. */
const plain = (problem: (value: unknown, parent: unknown) => string | null) =>
  yup.mixed().defined().test('plain', '${path}', function check(value) {
    const found = problem(value, this.parent);
    return found === null || this.createError({ message: `\${path} ${found}` });
  });
const fits = (complete: (params: Record<string, unknown>, parent: { type?: unknown }) => unknown, misfit: string) =>
  plain((params, parent) => {
    if (typeof params !== 'object' || params === null || Array.isArray(params)) return 'must be a table of parameters';
    try {
      complete(params as Record<string, unknown>, parent as { type?: unknown });
      return null;
    } catch (error) {
      return `${misfit}: ${error instanceof CoreError ? error.message : 'unknown'}`;
    }
  });

const MOST_OPAQUE = 4096;
/** Whether a value is the same after it was stored. */
const survives = (value: unknown): boolean =>
  typeof value === 'number' ? Number.isFinite(value) && !Object.is(value, -0)
  : typeof value === 'object' && value !== null ? (Array.isArray(value) || !Object.hasOwn(value, '__proto__')) && Object.values(value).every(survives)
  : value === null || typeof value === 'string' || typeof value === 'boolean';

/** What a later version brought stays as it is, and does nothing. */
const declared = (specOf: (type: string) => Parametric | null, what: string) => ({
  type: text(LIMITS.id).matches(/^[a-z][a-z0-9-]*$/),
  params: fits((params, { type }) => {
    const spec = specOf(String(type));
    if (spec) return completeParams(spec, params);
    if (survives(params) && JSON.stringify(params).length <= MOST_OPAQUE) return params;
    throw new CoreError('bad-parameter', 'what this version does not know must be plain values, and few');
  }, `do not fit the ${what}`),
});
const correctionFields = { blend: text().oneOf(CORRECTION_BLENDS), ...declared((type) => (isCorrectionId(type) ? correctionById(type) : null), 'correction') };
const kindFields = declared((type) => (isLayerType(type) ? layerSpec(type) : null), 'layer');

const within = (low: number, high: number) => number().min(low).max(high);
const placementSchema = yup
  .object({ offsetX: within(-LIMITS.coordinate, LIMITS.coordinate), offsetY: within(-LIMITS.coordinate, LIMITS.coordinate), scaleX: within(...SCALE_LIMITS), scaleY: within(...SCALE_LIMITS), rotationDegrees: within(-360, 360), filter: text().oneOf(RESAMPLING_FILTERS) })
  .noUnknown()
  .strict()
  .nullable()
  .defined();

export const chainCorrection = yup.object({ ...correctionFields, id: id(), visible: flag(), opacity: unit(), mask: maskUse }).noUnknown().strict();

const layerFields = { id: id(), name: text(LIMITS.name), visible: flag(), opacity: unit(), mask: maskUse, locked: yup.boolean().strict() };
const modes = (zone: Zone) => text().oneOf(blendModesFor(zone).map((mode) => mode.id), `\${path} is unknown or not offered ${zone === 'scene' ? 'under' : 'over'} the tone line`);

const correctionLayer = yup.object({ ...layerFields, kind: text().oneOf(['correction']), correction: yup.object(correctionFields).noUnknown().strict() }).noUnknown().strict();

/** Groups without their layers, which are checked one by one. */
const layerSchemas = Object.fromEntries(
  (['scene', 'picture'] as const).map((zone) => [
    zone,
    {
      picture: yup.object({ ...layerFields, ...kindFields, kind: text().oneOf(['picture']), blend: modes(zone), chain: yup.array(chainCorrection).strict().defined().max(LIMITS.chain), placement: placementSchema }).noUnknown().strict(),
      correction: correctionLayer,
      group: yup.object({ ...layerFields, kind: text().oneOf(['group']), isolated: flag(), blend: modes(zone) }).noUnknown().strict(),
    },
  ]),
) as unknown as Record<Zone, Record<Layer['kind'], yup.Schema>>;
export const layerSchema = (zone: Zone, layer: { readonly kind?: unknown } | null): yup.Schema => layerSchemas[zone][typeof layer?.kind === 'string' && Object.hasOwn(layerSchemas[zone], layer.kind) ? (layer.kind as Layer['kind']) : 'picture'];

export const sourceSchema = size({
  id: id(),
  name: text(LIMITS.elementName),
  role: text().test('role', '${path} is not a known role', (value) => isRoleId(value)),
  guess: yup.object({ reason: text(LIMITS.reason), confidence: unit() }).noUnknown().strict().nullable().defined(),
  findings: yup.array(yup.object({ kind: text().oneOf(FINDING_KINDS), sentence: text(LIMITS.sentence) }).noUnknown().strict()).strict().defined().max(LIMITS.findings),
  file: yup.object({ hash: text().matches(/^[0-9a-f]{64}$/), name: text(), format: text().oneOf(FILE_FORMATS), byteLength: whole().min(0) }).noUnknown().strict(),
  part: whole().min(0).max(1023),
  colorChannels: yup.array(text()).strict().defined().min(1).max(3).test('channels', '${path} must name one or three channels', (value) => value.length !== 2),
  alphaChannel: text().nullable(),
  encoding: text().oneOf(ENCODINGS),
  alpha: text().oneOf(ALPHA_USES).test('alpha', '${path} names an alpha that is not there', function check(value) {
    return (value === 'none') === ((this.parent as Source).alphaChannel === null);
  }),
  scale: number(),
  offset: number(),
  inSum: text().oneOf(SUM_USES),
  fit: size({ width: side(), height: side() }).noUnknown().strict().nullable().defined(),
  width: side(),
  height: side(),
  x: place(),
  y: place(),
}).noUnknown().strict();

const isNumber = (value: unknown): value is number => typeof value === 'number' && Number.isFinite(value);
const isWithin = (value: unknown, [low, high]: readonly [number, number]) => isNumber(value) && value >= low && value <= high;

const isText = (value: unknown, most: number, least = 0) => typeof value === 'string' && value.length >= least && value.length <= most;
const isTriple = (value: unknown, range: readonly [number, number]) => Array.isArray(value) && value.length === 3 && value.every((one) => isWithin(one, range));
const ANY: readonly [number, number] = [-Number.MAX_VALUE, Number.MAX_VALUE];

/** In plain code: a schedule has tens of thousands of rows. */
function materialProblem(row: unknown): string | null {
  if (typeof row !== 'object' || row === null) return 'is none';
  const { id: rowId, kind, tag, name, surface, sourceId, colorKey, coverage, chip, area, mean, ...others } = row as Record<string, unknown>;
  const [other] = Object.keys(others);
  if (other !== undefined) return `has something unknown, “${shortened(other, 40)}”`;
  if (!isText(rowId, LIMITS.id, 1) || !isText(sourceId, LIMITS.id, 1)) return 'must have an id and the id of its picture';
  if (kind !== 'material' && kind !== 'object') return 'must be a material or an object';
  if (![tag, name, surface ?? ''].every((text) => isText(text, LIMITS.name)) || surface === undefined) return `must have a tag, a name and a surface of at most ${LIMITS.name} letters`;
  if (!isNumber(colorKey)) return 'must have a number for its colour';
  const covers = coverage as { sourceId?: unknown; hash?: unknown } | null;
  if (covers !== null && (typeof covers !== 'object' || Object.keys(covers).length !== 2 || !isText(covers.sourceId, LIMITS.id, 1) || !Number.isInteger(covers.hash) || (covers.hash as number) < 0)) return 'must say where it lies in a coverage matte, or that it does not';
  if (!isTriple(chip, [0, 1]) || !isWithin(area, [0, 1])) return 'must have a colour and an area between 0 and 1';
  return mean === null || isTriple(mean, ANY) ? null : 'must have a mean colour of three numbers, or none';
}
export const materialSchema = plain(materialProblem);

const termFields = declared((type) => (isTermType(type) ? termSpec(type) : null), 'line');
/** A line of a mask. */
export const termSchema = yup.object({ ...termFields, id: id(), operation: text().oneOf(TERM_OPERATIONS), muted: flag() }).noUnknown().strict();
const edge = () => number().max(LIMITS.edgePx);
/** A mask without its terms, which are checked one by one. */
export const maskHead = yup.object({ id: id(), name: text(LIMITS.name), growPx: edge().min(-LIMITS.edgePx), featherPx: edge().min(0), followEdges: flag(), inverted: flag(), strength: unit() }).noUnknown().strict();

export const frame = yup.object({
  format: text().oneOf([DOCUMENT_FORMAT]),
  version: whole().oneOf([DOCUMENT_VERSION]),
  id: id(),
  name: text(LIMITS.name),
  size: size({ width: side(), height: side() }).noUnknown().strict(),
});

export const toneSchema = yup.object(declared((type) => (isToneId(type) ? toneById(type) : null), 'tone')).noUnknown().strict();

const ofScene = (of: Parametric, origins: readonly string[]) => yup.object({ from: text().oneOf(origins), params: fits((params) => completeParams(of, params), 'do not fit') }).noUnknown().strict();
const isSet = (list: readonly unknown[]) => new Set(list).size === list.length;
const mixSchema = yup
  .array(yup.object({ sourceId: id(), params: fits((params) => completeParams(lightGroup, params), 'do not fit') }).noUnknown().strict().defined())
  .strict()
  .defined()
  .max(LIMITS.sources)
  .test('once', '${path} sets a light group twice', (mix) => isSet(mix.map((setting) => setting?.sourceId)));
/** What stands before the build-up and the masks of a state. */
export const stateHead = yup.object({ id: id(), name: text(LIMITS.name).min(1), tone: toneSchema, mix: mixSchema }).noUnknown().strict();
export const scenarioSchema = yup.object({ id: id(), name: text(LIMITS.name).min(1), mix: mixSchema }).noUnknown().strict();
/** The light board without its scenarios, which are checked one by one. */
export const boardSchema = yup
  .object({
    mix: mixSchema,
    own: yup.array(yup.object({ sourceId: id(), color: yup.array(within(0, 65504)).strict().defined().length(3) }).noUnknown().strict().defined()).strict().defined().max(LIMITS.sources),
    links: yup.array(yup.array(id()).strict().defined().min(2)).strict().defined().max(LIMITS.sources).test('once', '${path} holds a light group twice', (links) => isSet(links.flat())),
    frames: yup
      .object({
        perSecond: within(1, LIMITS.framesPerSecond),
        seed: whole().min(0).max(2 ** 31),
        keys: yup.array(yup.object({ seconds: within(0, LIMITS.seconds), scenarioId: id(), passage: text().oneOf(LIGHT_PASSAGES) }).noUnknown().strict().defined()).strict().defined().max(LIMITS.lightKeys),
      })
      .noUnknown()
      .strict(),
  })
  .noUnknown()
  .strict();
const MOST_OVERRIDDEN = 2 ** 22;
/** One value of a scheme: whether it belongs where it is set is seen when it is set. */
function overrideProblem(override: unknown): string | null {
  const { at, what, value, ...others } = (override ?? {}) as Record<string, unknown>;
  if (typeof at !== 'object' || at === null || Object.keys(others).length > 0) return 'must say what is overridden, and by what';
  const names = Object.keys(at).sort().join(' ');
  if (!['layerId', 'correctionId layerId', 'maskId', 'maskId termId', 'lightId', 'part'].includes(names) || !Object.values(at).every((one) => isText(one, LIMITS.id, 1))) return 'must have the address of a layer, a correction, a mask, a line, a light group, the sun or the tone line';
  if (names === 'part' && (at as { part: unknown }).part !== 'sun' && (at as { part: unknown }).part !== 'tone') return 'must be about the sun or the tone line';
  if (!isText(what, LIMITS.id, 1)) return 'must say what of it is overridden';
  return value !== undefined && survives(value) && JSON.stringify(value).length <= MOST_OVERRIDDEN ? null : 'must have a plain value';
}
const overridesSchema = yup.array(plain(overrideProblem)).strict().defined().max(LIMITS.overrides);
export const schemeSchema = yup.object({ id: id(), name: text(LIMITS.name).min(1), overrides: overridesSchema }).noUnknown().strict();
const cutProblem = (cut: unknown): string | null => {
  const fault = cut === null || cut === undefined ? null : cutFault(cut);
  return fault && `must be ${fault}, or nothing`;
};
export const deliverySchema = yup
  .object({
    id: id(),
    name: text(LIMITS.name).min(1),
    format: text(LIMITS.id).min(1),
    values: plain((values) => (typeof values === 'object' && values !== null && !Array.isArray(values) && survives(values) && JSON.stringify(values).length <= MOST_OPAQUE ? null : 'must be a table of plain values, and few')),
    width: plain((width) => (width === null || (Number.isInteger(width) && isWithin(width, [1, LIMITS.side])) ? null : `must be whole pixels up to ${LIMITS.side}, or nothing`)).nullable(),
    halvings: whole().min(0).max(LIMITS.halvings),
    filter: text().oneOf(RESAMPLING_FILTERS),
    cut: plain(cutProblem).nullable().optional(),
    upto: id().nullable(),
    schemes: text().oneOf(DELIVERED_SCHEMES),
  })
  .noUnknown()
  .strict();
/** Which scheme is shown, without the list of them. */
export const shownSchema = yup.object({ chosenId: id().nullable().defined(), base: overridesSchema }).noUnknown().strict();
export const samplersSchema = yup.array(yup.array(whole().min(0).max(LIMITS.side)).strict().defined().length(2)).strict().defined().max(LIMITS.samplers);
export const cameraSchema = ofScene(camera, Object.keys(CAMERA_ORIGINS));
export const sunSchema = ofScene(sun, ['file', 'hand']);
const renderHead = yup.object({ id: id(), name: text(LIMITS.name).min(1), at: yup.number().strict().nullable().defined().test('finite', '${path} must be a finite number', (value) => value === null || Number.isFinite(value)), size: size({ width: side(), height: side() }).noUnknown().strict(), camera: cameraSchema.nullable().defined(), sun: sunSchema.nullable().defined() }).noUnknown().strict();

/** What is wrong with an earlier render; null if nothing is. */
export function renderProblem({ sources, materials, ...head }: Partial<EarlierRender>): string | null {
  const problem = misfit(renderHead, head);
  if (problem) return problem;
  if (!Array.isArray(sources) || sources.length > LIMITS.sources || !Array.isArray(materials) || materials.length > LIMITS.materials) return 'its elements are missing, or are too many';
  const ids = new Set<unknown>((sources as readonly Source[]).map((source) => source?.id));
  if (ids.size < sources.length) return 'two of its elements have the same id';
  for (const source of sources as readonly Source[]) {
    const fault = misfit(sourceSchema, source);
    if (fault) return `its element “${shortened(String(source?.name), 60)}”: ${fault}`;
  }
  for (const row of materials as readonly Material[]) {
    const fault = misfit(materialSchema, row) ?? (ids.has(row.sourceId) ? null : 'its ID picture is missing');
    if (fault) return `its material “${shortened(String(row?.name), 60)}”: ${fault}`;
  }
  return null;
}

/** Parts that fitted once: they never change, so they are not looked at again. */
const sound = new WeakMap<yup.Schema, WeakSet<object>>();

/** Names of fields as words: `chain[0].opacity` is “opacity of chain 1”. */
const wordsOfPath = (path: string) =>
  path
    .split('.')
    .reverse()
    .map((name) => name.replace(/\[(\d+)\]/g, (_, at) => ` ${Number(at) + 1}`).replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase())
    .join(' of ');

const described = (value: unknown) => (typeof value === 'string' ? `“${shortened(value, 40)}”` : value === null || value === undefined ? 'missing' : Array.isArray(value) ? 'a list' : typeof value === 'object' ? 'a table' : String(value));

/** What a schema says, for people who do not know schemas. Tests of our own have sentences of their own. */
function sentenceOf({ type, path, params, message, errors }: yup.ValidationError): string {
  const field = path ? `its ${wordsOfPath(path)}` : 'it';
  const value = params?.originalValue ?? params?.value;
  switch (type) {
    case 'typeError':
      return value === null || value === undefined ? `${field} is missing` : `${field} is ${described(value)}, expected ${{ string: 'a text', number: 'a number', boolean: 'yes or no', array: 'a list', object: 'a table' }[String(params?.type)] ?? 'something else'}`;
    case 'defined':
    case 'optionality':
    case 'nullable':
    case 'nullability':
      return `${field} is missing`;
    case 'oneOf':
      // Some lists have a sentence of their own.
      return /must be one of/.test(message) ? `${field} is ${described(value)}, which is not known` : message;
    case 'noUnknown':
      return `it holds something unknown: ${shortened(String(params?.unknown ?? ''), 60)}`;
    case 'min':
    case 'max':
    case 'integer':
    case 'matches':
      return /must (be|match|have)/.test(message) ? `${field} is ${described(value)}, which is not allowed` : message;
    default:
      return (errors[0] ?? message).replace(/^this /, '');
  }
}

/** What is wrong with a part, in words that go on “…: ”; null if nothing is. */
export function misfit(schema: yup.Schema, part: unknown): string | null {
  const isObject = typeof part === 'object' && part !== null;
  const known = sound.get(schema) ?? new WeakSet();
  if (isObject && known.has(part)) return null;
  try {
    schema.validateSync(part, { strict: true, abortEarly: true });
  } catch (error) {
    if (error instanceof yup.ValidationError) return sentenceOf(error);
    throw error;
  }
  if (isObject) sound.set(schema, known.add(part));
  return null;
}
