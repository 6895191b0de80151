/**
 * The document's border: whatever comes from a file, the storage or a message passes here.
 * Whole documents are checked strictly; a damaged one is read as far as it can be, and what was left out is named.
 */
import * as yup from 'yup';
import { blendModesFor } from '../blend/modes.ts';
import { completeParams } from '../corrections/define.ts';
import { correctionById, corrections } from '../corrections/registry.ts';
import { maskTerms, termSpec } from '../masks/registry.ts';
import { MAX_STROKES, MAX_TERMS } from './mask-edits.ts';
import { FINDING_KINDS } from '../elements/findings.ts';
import { isRoleId } from '../elements/roles.ts';
import { CoreError } from '../errors.ts';
import { ENCODINGS, type Zone } from '../color/zones.ts';
import { ALPHA_USES, type CorrectionUse, DOCUMENT_FORMAT, DOCUMENT_VERSION, FILE_FORMATS, type GroupLayer, type Layer, type Mask, type MaskTerm, type Material, MATERIAL_ORIGINS, MAX_GROUP_DEPTH, type Source, SUM_USES, type TazzelDocument } from './model.ts';

const text = () => yup.string().strict().defined();
const id = () => text().min(1).max(100);
const number = () => yup.number().strict().defined().test('finite', '${path} must be a finite number', (value) => Number.isFinite(value));
const whole = () => number().integer();
const unit = () => number().min(0).max(1);
const flag = () => yup.boolean().strict().defined();
const side = () => whole().min(1).max(65536);

const maskUse = yup.object({ maskId: id(), inverted: flag(), enabled: flag() }).noUnknown().strict().nullable().defined();

const correctionFields = {
  type: text().oneOf(corrections.map((correction) => correction.id)),
  params: yup.mixed<CorrectionUse['params']>().defined().test('params', '${path} does not fit its correction', function check(params) {
    try {
      completeParams(correctionById((this.parent as CorrectionUse).type), params as Record<string, unknown>);
      return true;
    } catch (error) {
      return this.createError({ message: error instanceof Error ? error.message : String(error) });
    }
  }),
};

const chainCorrection = yup.object({ ...correctionFields, id: id(), visible: flag(), opacity: unit(), mask: maskUse }).noUnknown().strict();

const layerFields = { id: id(), name: text().max(200), visible: flag(), opacity: unit(), mask: maskUse };

const elementLayer = (zone: Zone) =>
  yup.object({
    ...layerFields,
    kind: text().oneOf(['element']),
    sourceId: id(),
    blend: text().oneOf(blendModesFor(zone).map((mode) => mode.id), `\${path} is unknown or not offered ${zone === 'scene' ? 'under' : 'over'} the tone line`),
    chain: yup.array(chainCorrection).strict().defined(),
  }).noUnknown().strict();

const correctionLayer = yup.object({ ...layerFields, kind: text().oneOf(['correction']), correction: yup.object(correctionFields).noUnknown().strict() }).noUnknown().strict();

/** A group without its layers, which are checked one by one. */
const groupLayer = (zone: Zone) =>
  yup.object({
    ...layerFields,
    kind: text().oneOf(['group']),
    isolated: flag(),
    blend: text().oneOf(blendModesFor(zone).map((mode) => mode.id), `\${path} is unknown or not offered ${zone === 'scene' ? 'under' : 'over'} the tone line`),
  }).noUnknown().strict();

const source = yup.object({
  id: id(),
  name: text().max(400),
  role: text().test('role', '${path} is not a known role', (value) => isRoleId(value)),
  guess: yup.object({ reason: text().max(400), confidence: unit() }).noUnknown().strict().nullable().defined(),
  findings: yup.array(yup.object({ kind: text().oneOf(FINDING_KINDS), sentence: text().max(2000) }).noUnknown().strict()).strict().defined(),
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
  fit: yup.object({ width: side(), height: side() }).noUnknown().strict().nullable().defined(),
  width: side(),
  height: side(),
  x: whole(),
  y: whole(),
}).noUnknown().strict();

const color = () => yup.array(number()).strict().defined().length(3);
const material = yup.object({
  id: id(),
  kind: text().oneOf(['material', 'object']),
  tag: text(),
  name: text().max(200),
  surface: text().max(200).nullable(),
  sourceId: id(),
  colorKey: number(),
  coverage: yup.object({ sourceId: id(), hash: whole().min(0) }).noUnknown().strict().nullable().defined(),
  chip: yup.array(unit()).strict().defined().length(3),
  area: unit(),
  mean: color().nullable(),
}).noUnknown().strict();

const termFields = { operation: text().oneOf(['add', 'subtract', 'intersect']), muted: flag() };
const termParams = (kind: string) =>
  yup.mixed<Record<string, number>>().defined().test('params', '${path} does not fit its term', function check(params) {
    try {
      completeParams(termSpec(kind), params as Record<string, unknown>);
      return true;
    } catch (error) {
      return this.createError({ message: error instanceof Error ? error.message : String(error) });
    }
  });
const points = yup.array(yup.array(number()).strict().defined().length(2)).strict().defined().max(500);
const stroke = yup.object({ erase: flag(), sizePx: number().min(0.5).max(5000), hardness: unit(), opacity: unit(), flow: unit(), spacing: number().min(0.01).max(10), path: yup.array(number()).strict().defined().max(300_000).test('triples', '${path} must hold x, y and pressure', (path) => path.length % 3 === 0) }).noUnknown().strict();
const termSchemas: Readonly<Record<string, yup.Schema>> = Object.fromEntries(
  maskTerms.map(({ kind, reads }) => {
    const fields: Record<string, yup.Schema> =
      kind === 'material' ? { materialIds: yup.array(id()).strict().defined(), from: text().oneOf(MATERIAL_ORIGINS) }
      : kind === 'paint' ? { filled: flag(), strokes: yup.array(stroke).strict().defined().max(MAX_STROKES) }
      : kind === 'mask' ? { maskId: text().max(100) }
      : reads ? { sourceId: id().nullable(), layerId: id().nullable(), params: termParams(kind) }
      : { points, params: termParams(kind) };
    return [kind, yup.object({ ...termFields, ...fields, kind: text().oneOf([kind]) }).noUnknown().strict()];
  }),
);
const term = yup.lazy((value) => termSchemas[(value as { kind?: string } | null)?.kind ?? ''] ?? yup.mixed().test('kind', `there is no mask term “${String((value as { kind?: unknown } | null)?.kind)}”`, () => false)) as unknown as yup.Schema;
/** A mask without its terms, which are checked one by one. */
const mask = yup.object({ id: id(), name: text().max(200), growPx: number().min(-2000).max(2000), featherPx: number().min(0).max(2000), followEdges: flag(), inverted: flag(), strength: unit() }).noUnknown().strict();

const frame = yup.object({
  format: text().oneOf([DOCUMENT_FORMAT]),
  version: whole().oneOf([DOCUMENT_VERSION]),
  id: id(),
  name: text().max(200),
  size: yup.object({ width: side(), height: side() }).noUnknown().strict(),
  tone: yup.object({ curve: text().oneOf(['srgb']) }).noUnknown().strict(),
});

export interface ReadDocument {
  readonly document: TazzelDocument;
  /** One sentence for each part that had to be left out; empty for a sound document. */
  readonly problems: readonly string[];
}

/**
 * Reads a document as far as it can be read: parts that do not fit are left out and named.
 * @throws CoreError `bad-document` if not even name and size can be read, `newer-document` for a later version
 */
export function readDocument(json: unknown): ReadDocument {
  const raw = json as Record<string, unknown> | null;
  if (typeof raw !== 'object' || raw === null || raw.format !== DOCUMENT_FORMAT) throw new CoreError('bad-document', 'This is not a Tazzel document: the mark “tazzel-document” is missing.');
  if (typeof raw.version === 'number' && raw.version > DOCUMENT_VERSION) {
    throw new CoreError('newer-document', `The document was written by a newer version (document version ${raw.version}, this program reads up to ${DOCUMENT_VERSION}). Update to open it.`);
  }
  const problems: string[] = [];
  const head = check(frame, { ...raw, tone: raw.tone ?? { curve: 'srgb' } });
  if (head.error) throw new CoreError('bad-document', `The document cannot be read: ${head.error}.`);

  const seen = new Set<string>();
  const list = <T extends { id: string; name: string }>(value: unknown, schema: yup.Schema, what: string): T[] => {
    if (!Array.isArray(value)) {
      problems.push(`The list of ${what}s is missing.`);
      return [];
    }
    return value.filter((item: T, index) => {
      const title = `${what} ${typeof item?.name === 'string' && item.name !== '' ? `“${item.name}”` : index + 1}`;
      const { error } = check(schema, item);
      if (error) problems.push(`The ${title} was left out: ${error}.`);
      else if (seen.has(item.id)) problems.push(`The ${title} was left out: its id ${item.id} occurs twice.`);
      else {
        seen.add(item.id);
        return true;
      }
      return false;
    });
  };

  // Older documents do not say what was not known then: parts of files, what values mean, fitted sizes.
  const complete = Array.isArray(raw.sources) ? raw.sources.map((item) => (typeof item === 'object' && item !== null ? { part: 0, guess: null, findings: [], scale: 1, offset: 0, inSum: 'auto', fit: null, ...item } : item)) : raw.sources;
  const sources = list<Source>(complete, source, 'element');
  const completeRows = Array.isArray(raw.materials) ? raw.materials.map((item) => (typeof item === 'object' && item !== null ? { kind: 'material', surface: null, coverage: null, mean: null, ...item } : item)) : raw.materials;
  const materials = list<Material>(completeRows, material, 'material').filter((row) => keep(sources.some((s) => s.id === row.sourceId), `The material “${row.name}” was left out: its ID picture is missing.`));
  const termsOf = new Map<string, unknown>();
  const maskHeads = !Array.isArray(raw.masks) ? raw.masks : raw.masks.map((item) => {
    if (typeof item !== 'object' || item === null || typeof item.id !== 'string') return item;
    const { terms, ...rest } = item;
    termsOf.set(item.id, terms);
    return { growPx: 0, featherPx: 0, followEdges: false, inverted: false, strength: 1, ...rest };
  });
  const masks = list<Mask>(maskHeads, mask, 'mask').map((head): Mask => {
    const given = termsOf.get(head.id);
    const terms = (Array.isArray(given) ? given : []).slice(0, MAX_TERMS).flatMap((item, i): MaskTerm[] => {
      const whole = typeof item === 'object' && item !== null ? { muted: false, ...(item.kind === 'material' ? { from: 'auto' } : {}), ...item } : item;
      const { error } = check(term, whole);
      if (error) problems.push(`Line ${i + 1} of the mask “${head.name}” was left out: ${error}.`);
      return error ? [] : [whole];
    });
    return { ...head, terms };
  });
  const buildUp = (raw.buildUp ?? {}) as Record<Zone, unknown>;
  const layers = (value: unknown, zone: Zone, depth: number): Layer[] => {
    const inside = new Map<string, unknown>();
    const heads = !Array.isArray(value) ? value : value.map((item) => {
      if (item?.kind !== 'group' || typeof item.id !== 'string') return item;
      const { layers: members, ...head } = item;
      inside.set(item.id, members);
      return head;
    });
    return list<Layer>(heads, yup.lazy((item) => (item?.kind === 'correction' ? correctionLayer : item?.kind === 'group' ? groupLayer(zone) : elementLayer(zone))) as unknown as yup.Schema, 'layer')
      .filter((layer) => layer.kind !== 'element' || keep(sources.some((s) => s.id === layer.sourceId), `The layer “${layer.name}” was left out: its element is missing.`))
      .filter((layer) => layer.kind !== 'group' || keep(depth < MAX_GROUP_DEPTH, `The group “${layer.name}” was left out: groups lie at most ${MAX_GROUP_DEPTH} deep.`))
      .map((layer) => withoutLostMasks(layer.kind === 'group' ? ({ ...layer, layers: layers(inside.get(layer.id), zone, depth + 1) } as GroupLayer) : layer));
  };

  function keep(condition: boolean, sentence: string): boolean {
    if (!condition) problems.push(sentence);
    return condition;
  }

  function withoutLostMasks(layer: Layer): Layer {
    const known = (use: { mask: Layer['mask'] }) => use.mask === null || masks.some((m) => m.id === use.mask?.maskId);
    const fixed = known(layer) ? layer : { ...layer, visible: false, mask: null };
    if (fixed !== layer) problems.push(`The layer “${layer.name}” was switched off: its mask is missing.`);
    if (fixed.kind !== 'element') return fixed;
    return { ...fixed, chain: fixed.chain.map((c) => (known(c) ? c : { ...c, visible: false, mask: null })) };
  }

  const scene = layers(buildUp.scene, 'scene', 0);
  const picture = layers(buildUp.picture, 'picture', 0);
  const { format, version, id: documentId, name, size, tone } = head.value as TazzelDocument;
  return { document: { format, version, id: documentId, name, size, sources, materials, masks, buildUp: { scene, picture }, tone }, problems };
}

/** Reads a document that must be sound. @throws CoreError `bad-document` naming the first fault */
export function parseDocument(json: unknown): TazzelDocument {
  const { document, problems } = readDocument(json);
  if (problems.length > 0) throw new CoreError('bad-document', problems[0]);
  return document;
}

function check(schema: yup.Schema, value: unknown): { value: unknown; error: string | null } {
  try {
    return { value: schema.validateSync(value, { strict: true, abortEarly: true }), error: null };
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    return { value: null, error: error.message };
  }
}
