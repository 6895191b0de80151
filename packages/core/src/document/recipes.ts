/**
 * Recipes: build-ups that know roles and names of materials instead of sources and masks, so that they fit the next set
 * of elements as well. Applying one gives a single edit and says what it could not find.
 */
import * as yup from 'yup';
import { materialsIn } from '../masks/material.ts';
import { type BlendModeId, blendModesFor } from '../blend/modes.ts';
import type { Zone } from '../color/zones.ts';
import { completeParams, defaultsOf } from '../params/table.ts';
import { CORRECTION_BLENDS } from '../blend/correction-blends.ts';
import { layersWithKinds } from './migrations.ts';
import { correctionById, isCorrectionId } from '../corrections/registry.ts';
import { type MissingLight, type RebuildSet, rebuildSet, type RebuildPairs, type RebuildSplit } from '../elements/rebuild-set.ts';
import { groupsOf } from '../light/board.ts';
import { baseSource } from './start.ts';
import { Builder, relitGroup, type Recipe, type RecipeElement, type RecipeEntry, type RecipeGroup, type RecipeMask, summands } from './builder.ts';
import { isRoleId, type RoleId, } from '../elements/roles.ts';
import { THINGS, type ThingId } from '../elements/vocabulary.ts';
import { CoreError } from '../errors.ts';
import type { EditOf } from './edits.ts';
import { LIMITS, shortened } from '../limits.ts';
import type { CorrectionUse, Layer, MaskUse, TazzelDocument } from '../model/model.ts';
import { findMask, findMaterial, findSource, sourceIdOf } from '../model/query.ts';

export type { Recipe };

export interface BuildResult {
  readonly edit: EditOf<'build'>;
  /** One sentence for each thing that the set does not have. */
  readonly missing: readonly string[];
}

const wordsFor = (things: readonly ThingId[]): string[] => things.flatMap((thing) => THINGS[thing].words);
const off = (name: string, ...things: readonly ThingId[]): RecipeMask => ({ name, materials: wordsFor(things), inverted: true });
const on = (name: string, ...things: readonly ThingId[]): RecipeMask => ({ name, materials: wordsFor(things), inverted: false });

const element = (name: string, roles: readonly RoleId[], blend: BlendModeId, opacity: number, more: Partial<RecipeElement> = {}): RecipeElement => ({ kind: 'element', name, roles, element: null, blend, opacity, visible: true, mask: null, chain: [], lack: null, ...more });
const group = (name: string, layers: readonly RecipeEntry[]): RecipeGroup => ({ kind: 'group', name, isolated: false, blend: 'normal', visible: true, opacity: 1, mask: null, layers });
const use = (type: string, params: CorrectionUse['params']): CorrectionUse => ({ type, blend: 'all', params: { ...defaultsOf(correctionById(type)), ...params } });
const grey = use('hue-saturation', { saturationPercent: 0 });

const BEAUTY = element('Beauty', ['denoised-beauty', 'beauty', 'picture'], 'normal', 1);

export const beautyOnly: Recipe = { id: 'beauty', name: 'Beauty only', summary: 'The finished render as the base; the elements wait in the schedule.', scene: [BEAUTY], picture: [] };

/** Modes and opacities as artists use them over a finished beauty: common practice, no published source. */
export const enhancement: Recipe = {
  id: 'enhancement',
  name: 'Enhancement',
  summary: 'Elements laid thinly over the finished render, as artists do it by hand.',
  scene: [BEAUTY],
  picture: [
    group('Enhancement', [
      element('Diffuse filter', ['diffuse-filter'], 'overlay', 0.22, { lack: 'surfaces keep the colours of the beauty' }),
      element('Ambient occlusion', ['ambient-occlusion'], 'multiply', 0.5, { lack: 'creases are not deepened' }),
      element('Raw GI', ['raw-gi', 'gi'], 'screen', 0.4, { chain: [use('exposure', { exposureStops: -2 })], mask: off('Sky and glazing', 'sky', 'glazing'), lack: 'shade is not lifted' }),
      element('Shadow, inverted', ['shadow'], 'soft-light', 0.25, { chain: [use('invert', {})], mask: off('Glazing', 'glazing'), lack: 'shadows are not deepened' }),
      element('Raw lighting', ['raw-lighting', 'direct-lighting'], 'overlay', 0.3, { chain: [grey], mask: off('Sky and glazing', 'sky', 'glazing'), lack: 'light is not modelled' }),
      element('Reflection', ['raw-reflection', 'reflection'], 'overlay', 0.5, { mask: on('Glazing and water', 'glazing', 'water'), lack: 'glass and water keep their reflections' }),
      element('Specular', ['specular'], 'screen', 0.5, { lack: 'highlights are not raised' }),
      element('Refraction', ['refraction'], 'lighten', 0.75, { mask: on('Glazing', 'glazing'), lack: 'what stands behind glass is not raised' }),
    ]),
  ],
};

export const builtInRecipes: readonly Recipe[] = [enhancement, beautyOnly];

/** The build-up that a recipe makes of a document's elements. */
export function buildRecipe(document: TazzelDocument, recipe: Recipe): BuildResult {
  const builder = new Builder(document);
  const scene = builder.layers(recipe.scene);
  const picture = builder.layers(recipe.picture);
  return { edit: { type: 'build', name: recipe.name, scene, picture, masks: builder.masks }, missing: [...new Set(builder.missing)] };
}

const EMPTY: Readonly<Partial<Record<MissingLight['id'], string>>> = {
  'direct-lighting': 'surfaces get no light from the lamps and the sun',
  gi: 'shade will be black',
  reflection: 'glass, metal and water will not reflect',
  refraction: 'what stands behind glass will be black',
  specular: 'highlights will be missing',
  'self-illumination': 'lamps will be dark',
  background: 'the sky will be black',
};

/** Beauty off, all light added. Null if there is no beauty, or nothing to add. */
export function buildExact(document: TazzelDocument, split: RebuildSplit, pairs: RebuildPairs): BuildResult | null {
  const set = rebuildSet(document.sources, split, pairs);
  if (!set) return null;
  const builder = new Builder(document);
  const reference = builder.element(set.target, 'normal', { name: shortened(`${set.target.name}, for reference`), visible: false });
  const elements = builder.group(split === 'lights' ? 'Light groups' : 'Elements', false, summands(builder, set, document.sources));
  return {
    edit: { type: 'build', name: split === 'lights' ? 'Exact rebuild of lights' : 'Exact rebuild', scene: [reference, elements], picture: [], masks: [] },
    // Which lights a scene has nobody knows.
    missing: split === 'lights' ? [] : set.missing.map(({ id, label }) => `${label} is missing: ${EMPTY[id] ?? 'its light will be missing'}.`),
  };
}

/** Beauty off, the light of the board in its place: its mix, or the elements in that light, with the mix beside them. Null without light groups, or without elements. */
export function buildLit(document: TazzelDocument, by: RebuildSplit): BuildResult | null {
  const builder = new Builder(document);
  const base = baseSource(document.sources);
  const elements = by === 'elements' ? relitGroup(document, builder) : null;
  if (!base || groupsOf(document).length === 0 || (by === 'elements' && !elements)) return null;
  const reference = builder.element(base, 'normal', { name: shortened(`${base.name}, for reference`), visible: false });
  const mix = builder.mix();
  return { edit: { type: 'build', name: by === 'lights' ? 'Light mix' : 'Exact rebuild in the light of the board', scene: [reference, ...(elements ? [{ ...mix, visible: false }, elements] : [mix])], picture: [], masks: [] }, missing: [] };
}

/** The document reduced to the sum of a set, or to how far it is from the beauty, brightened by some stops. */
export function rebuildDocument(document: TazzelDocument, set: RebuildSet, show: 'sum' | 'difference', gainStops = 0): TazzelDocument {
  const builder = new Builder(document);
  const sum = summands(builder, set, document.sources);
  const difference: Layer[] = show === 'sum' ? [] : [builder.element(set.target, 'difference')];
  const gain: Layer[] = gainStops === 0 ? [] : [{ id: 'gain', kind: 'correction', name: 'Gain', visible: true, opacity: 1, mask: null, correction: use('exposure', { exposureStops: gainStops }) }];
  return { ...document, masks: [], buildUp: { scene: [...sum, ...difference, ...gain], picture: [] } };
}

/** The build-up of a document as a recipe for the next set. */
export function recipeOf(document: TazzelDocument, id: string, name: string): Recipe {
  const maskOf = (used: MaskUse | null): RecipeMask | null => {
    const mask = used?.enabled ? findMask(document, used.maskId) : null;
    if (!used || !mask) return null;
    const materials = materialsIn({ terms: mask.terms.filter(({ operation }) => operation === 'add') }).flatMap((materialId) => findMaterial(document, materialId)?.name ?? []);
    return { name: mask.name, materials, inverted: used.inverted };
  };
  const entries = (layers: readonly Layer[]): RecipeEntry[] =>
    layers.flatMap((layer): RecipeEntry[] => {
      const base = { name: layer.name, visible: layer.visible, opacity: layer.opacity, mask: maskOf(layer.mask) };
      if (layer.kind === 'group') return [{ ...base, kind: 'group', isolated: layer.isolated, blend: layer.blend, layers: entries(layer.layers) }];
      if (layer.kind === 'correction') return [{ ...base, kind: 'correction', correction: layer.correction }];
      // A recipe is made for other elements: fills and snapshots belong to this picture.
      const shown = sourceIdOf(layer);
      const source = shown === null ? null : findSource(document, shown);
      if (!source) return [];
      return [{ ...base, kind: 'element', roles: [source.role], element: source.name, blend: layer.blend, chain: layer.chain.filter((link) => link.visible).map(({ type, blend, params }) => ({ type, blend, params })), lack: null }];
    });
  const { scene, picture } = document.buildUp;
  return { id, name, summary: 'Your own.', scene: entries(scene), picture: entries(picture) };
}

const text = () => yup.string().strict().defined().max(LIMITS.elementName);
const maskSchema = yup.object({ name: text(), materials: yup.array(text()).strict().defined(), inverted: yup.boolean().strict().defined() }).noUnknown().strict().nullable().defined();
const base = { name: text(), visible: yup.boolean().strict().defined(), opacity: yup.number().strict().defined().min(0).max(1), mask: maskSchema };
const correctionSchema = yup.object({ type: text().test('correction', '${path} is unknown', (id) => isCorrectionId(id)), blend: text().oneOf(CORRECTION_BLENDS), params: yup.object().defined() });
const entrySchema = (zone: Zone, depth: number): yup.Schema =>
  yup.lazy((value) => {
    const blend = text().oneOf(blendModesFor(zone).map((mode) => mode.id));
    if (value?.kind === 'correction') return yup.object({ ...base, kind: text(), correction: correctionSchema }).noUnknown().strict();
    if (value?.kind === 'group' && depth < 4) return yup.object({ ...base, kind: text(), isolated: yup.boolean().strict().defined(), blend, layers: yup.array(entrySchema(zone, depth + 1) as yup.AnySchema).strict().defined() }).noUnknown().strict();
    return yup.object({ ...base, kind: text().oneOf(['element']), roles: yup.array(text().test('role', '${path} is not a known role', (id) => isRoleId(id))).strict().defined().min(1), element: text().nullable(), blend, chain: yup.array(correctionSchema).strict().defined(), lack: text().nullable() }).noUnknown().strict();
  }) as unknown as yup.Schema;

const recipeSchema = yup.object({
  id: text().min(1),
  name: text().min(1),
  summary: text(),
  scene: yup.array(entrySchema('scene', 0) as yup.AnySchema).strict().defined(),
  picture: yup.array(entrySchema('picture', 0) as yup.AnySchema).strict().defined(),
}).noUnknown().strict();

/** Reads a recipe from a file or the storage, of this version or an earlier one. @throws CoreError `bad-document` naming what does not fit */
export function readRecipe(json: unknown): Recipe {
  try {
    const given = json as Partial<Recipe> | null;
    const recipe = recipeSchema.validateSync({ ...given, scene: layersWithKinds(given?.scene), picture: layersWithKinds(given?.picture) }, { strict: true }) as unknown as Recipe;
    const check = (entries: readonly RecipeEntry[]): void => {
      for (const entry of entries) {
        if (entry.kind === 'group') check(entry.layers);
        else for (const correction of entry.kind === 'correction' ? [entry.correction] : entry.chain) completeParams(correctionById(correction.type), correction.params);
      }
    };
    check([...recipe.scene, ...recipe.picture]);
    return recipe;
  } catch (error) {
    throw new CoreError('bad-document', `This is not a recipe: ${error instanceof Error ? error.message : String(error)}.`);
  }
}

