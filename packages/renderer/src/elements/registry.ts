/** The elements that a render can save: what each is called, which role it has, what must be gathered for it. */
import type { RoleId } from '@tazzel/core';
import { RenderError } from '../errors.ts';
import type { IdKind } from '../film/film.ts';
import { BEAUTY, groupName, momentName, PATHS, planSlots, type RestName } from '../film/slots.ts';
import { lightGroups, type SceneDescription } from '../scene/model.ts';

export const ELEMENT_SETS = ['rebuild', 'enhancement', 'masks', 'everything'] as const;
export type ElementSet = (typeof ELEMENT_SETS)[number];
export const SET_LABELS: Record<ElementSet, string> = { rebuild: 'Exact rebuild', enhancement: 'Enhancement', masks: 'Masks only', everything: 'Everything' };

interface ElementRow {
  /** As in `--elements`, and the beginning of the element's name in files (with underscores). */
  readonly id: string;
  readonly label: string;
  readonly role: RoleId;
  readonly sets: readonly Exclude<ElementSet, 'everything'>[];
  /** Sums by pixel. Light by path is always gathered: its sum is the beauty. */
  readonly sums: readonly RestName[];
  readonly ids: readonly IdKind[];
  /** Noise that the denoiser takes out of it. */
  readonly isNoisy: boolean;
}

const light = (id: string, label: string, sets: ElementRow['sets'], sums: readonly RestName[] = []): ElementRow => ({ id, label, role: id as RoleId, sets, sums, ids: [], isNoisy: true });
const data = (id: string, label: string, role: RoleId, sets: ElementRow['sets'], sums: readonly RestName[], ids: readonly IdKind[] = []): ElementRow => ({ id, label, role, sets, sums, ids, isNoisy: false });

export const elementRows: readonly ElementRow[] = [
  light('beauty', 'Beauty', ['rebuild', 'enhancement', 'masks']),
  light('denoised-beauty', 'Denoised beauty', ['rebuild', 'enhancement'], ['diffuse-filter', 'normals']),
  data('alpha', 'Alpha', 'alpha', ['rebuild', 'enhancement', 'masks'], ['alpha']),
  light('direct-lighting', 'Direct lighting', ['rebuild']),
  light('gi', 'GI', ['rebuild']),
  light('reflection', 'Reflection', ['rebuild']),
  light('refraction', 'Refraction', ['rebuild', 'enhancement']),
  light('specular', 'Specular', ['rebuild', 'enhancement']),
  light('self-illumination', 'Self-illumination', ['rebuild', 'enhancement']),
  light('background', 'Background', ['rebuild']),
  light('atmosphere', 'Atmosphere', ['rebuild', 'enhancement']),
  { ...light('diffuse-filter', 'Diffuse filter', ['rebuild', 'enhancement'], ['diffuse-filter']), isNoisy: false },
  light('raw-lighting', 'Raw lighting', ['rebuild', 'enhancement'], ['diffuse-filter']),
  light('raw-gi', 'Raw GI', ['rebuild', 'enhancement'], ['diffuse-filter']),
  { ...light('reflection-filter', 'Reflection filter', ['rebuild'], ['reflection-filter']), isNoisy: false },
  light('raw-reflection', 'Raw reflection', ['rebuild', 'enhancement'], ['reflection-filter']),
  { ...light('refraction-filter', 'Refraction filter', ['rebuild'], ['refraction-filter']), isNoisy: false },
  light('raw-refraction', 'Raw refraction', ['rebuild'], ['refraction-filter']),
  light('shadow', 'Shadow', ['enhancement'], ['shadow']),
  light('raw-shadow', 'Raw shadow', [], ['shadow', 'diffuse-filter']),
  light('ambient-occlusion', 'Ambient occlusion', ['enhancement'], ['ambient-occlusion']),
  light('light-group', 'Light groups', ['rebuild']),
  data('depth', 'Depth in metres', 'depth', ['enhancement', 'masks'], ['depth', 'alpha']),
  data('depth-normalised', 'Depth, near white and far black', 'depth', [], ['depth', 'alpha']),
  data('distance', 'Distance', 'distance', ['masks'], ['distance', 'alpha']),
  data('depth-in-glass-and-mirrors', 'Depth in glass and mirrors', 'seen-depth', [], ['seen-depth', 'alpha']),
  data('normals', 'Normals', 'normals', ['masks'], ['normals', 'alpha']),
  data('position', 'Position', 'position', ['masks'], ['position', 'alpha']),
  data('material-id', 'Material ID', 'material-id', ['enhancement', 'masks'], [], ['material']),
  data('object-id', 'Object ID', 'object-id', ['masks'], [], ['object']),
  data('material-id-through-glass', 'Material ID through glass', 'material-id', [], [], ['through']),
  data('material-id-in-mirrors', 'Material ID in mirrors', 'material-id', [], [], ['mirrored']),
  data('rgb-matte', 'RGB mattes', 'rgb-matte', ['masks'], [], ['material']),
  data('crypto-material', 'Coverage by material', 'coverage-matte', ['masks'], [], ['material']),
  data('crypto-object', 'Coverage by object', 'coverage-matte', ['masks'], [], ['object']),
  data('wireframe', 'Wireframe', 'wireframe', [], ['wireframe', 'alpha']),
];
const byId = new Map(elementRows.map((row) => [row.id, row]));

/** @throws RenderError `bad-request` */
export function elementRow(id: string): ElementRow {
  const row = byId.get(id);
  if (!row) throw new RenderError('bad-request', `There is no element “${id}”. Elements: ${elementRows.map((one) => one.id).join(', ')}; sets: ${ELEMENT_SETS.join(', ')}.`);
  return row;
}

/** Fog renders hold the fog's own light and how much it covers. */
const FOG_ELEMENTS: readonly string[] = ['atmosphere', 'alpha', 'light-group'];

export const isInSet = (row: ElementRow, set: ElementSet): boolean => set === 'everything' || row.sets.includes(set);

/** The elements of a list of names and sets, in the order of the registry. With `fog` only those that fog has. */
export function chooseElements(wanted: readonly string[], fog: boolean): string[] {
  const chosen = new Set<string>();
  for (const name of wanted) {
    if ((ELEMENT_SETS as readonly string[]).includes(name)) for (const row of elementRows) if (isInSet(row, name as ElementSet)) chosen.add(row.id);
    if (!(ELEMENT_SETS as readonly string[]).includes(name)) chosen.add(elementRow(name).id);
  }
  if (!fog) chosen.delete('atmosphere');
  const found = elementRows.map((row) => row.id).filter((id) => chosen.has(id) && (!fog || FOG_ELEMENTS.includes(id)));
  if (found.length === 0) throw new RenderError('bad-request', fog ? `A fog render has ${FOG_ELEMENTS.join(', ')}; choose at least one of them.` : 'Choose at least one element.');
  return found;
}

/** What must be kept on the film for these elements. */
export function filmContents(scene: SceneDescription, elements: readonly string[], { denoises, fog }: { denoises: boolean; fog: boolean }): { kept: string[]; ids: IdKind[] } {
  const rows = elements.map(elementRow);
  const slots = planSlots(lightGroups(scene));
  const kept = new Set<string>([...PATHS, momentName(BEAUTY)]);
  for (const row of rows) for (const sum of row.sums) kept.add(sum);
  if (elements.includes('light-group')) for (const group of lightGroups(scene)) kept.add(groupName(group));
  if (denoises) {
    // Fog has no surfaces: only the depth behind it says where its edges are.
    for (const guide of fog ? ['depth'] : ['diffuse-filter', 'normals', 'depth']) kept.add(guide);
    for (const slot of slots.light) if (kept.has(slot.name)) kept.add(momentName(slot.name));
  }
  return { kept: [...kept], ids: [...new Set(rows.flatMap((row) => row.ids))] };
}

/** Which elements the scene's materials call for, as one sentence each. */
export function elementHints(scene: SceneDescription): { readonly element: string; readonly because: string }[] {
  const names = (kinds: readonly string[]) => scene.materials.filter(({ surface }) => kinds.includes(surface.kind)).map(({ name }) => name);
  const list = (found: readonly string[]) => (found.length > 3 ? `${found.slice(0, 3).join(', ')} and ${found.length - 3} more` : found.join(', '));
  const hints: { element: string; because: string }[] = [];
  const mirrors = names(['metal', 'coated', 'thin-glass', 'solid-glass', 'water']);
  const clear = names(['thin-glass', 'solid-glass', 'water']);
  const glossy = names(['metal', 'coated']);
  if (mirrors.length > 0) hints.push({ element: 'reflection', because: `${list(mirrors)} mirror their surroundings` });
  if (glossy.length > 0) hints.push({ element: 'specular', because: `${list(glossy)} show highlights of the lamps` });
  if (clear.length > 0) hints.push({ element: 'refraction', because: `without it everything behind ${list(clear)} is black in the rebuild` });
  if (clear.length > 0) hints.push({ element: 'material-id-through-glass', because: `what stands behind ${list(clear)} can only be selected with it` });
  if (scene.lamps.some(({ kind }) => kind !== 'web') || names(['luminous']).length > 0) hints.push({ element: 'self-illumination', because: 'lamps are in the picture' });
  if (lightGroups(scene).length > 3) hints.push({ element: 'light-group', because: 'the lamps are sorted into groups, which can be balanced afterwards' });
  return hints;
}
