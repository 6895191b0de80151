/** Parameters that name other parts of the document by their ids. */
import { LIMITS } from '../limits.ts';
import { type NamedKind, type Naming, type ParamHead, type ParamKind, Unfit } from './define.ts';

/** An element; empty takes the usual one, where there is one. */
export interface ElementParam extends ParamHead<'element', string> {
  /** Roles that are looked for, the best first; without them any element will do. */
  readonly roles?: readonly string[];
}
/** A layer: the picture as it is after it. Empty names none. */
export type LayerParam = ParamHead<'layer', string>;
/** A mask of the shelf. */
export type MaskParam = ParamHead<'mask', string>;
/** A named mix of the light board; empty is the mix on the board. */
export type ScenarioParam = ParamHead<'scenario', string>;
/** Rows of the schedule. */
export type MaterialsParam = ParamHead<'materials', readonly string[]>;

type Declared<P extends ParamHead<string, unknown>> = Omit<P, 'kind' | 'default'>;
export const element = (param: Declared<ElementParam>): ElementParam => ({ kind: 'element', default: '', ...param });
export const layer = (param: Declared<LayerParam>): LayerParam => ({ kind: 'layer', default: '', ...param });
export const mask = (param: Declared<MaskParam>): MaskParam => ({ kind: 'mask', default: '', ...param });
export const scenario = (param: Declared<ScenarioParam>): ScenarioParam => ({ kind: 'scenario', default: '', ...param });
export const materials = (param: Declared<MaterialsParam>): MaterialsParam => ({ kind: 'materials', default: [], ...param });

const isId = (given: unknown): given is string => typeof given === 'string' && given.length <= LIMITS.id;

const idOf = (what: string) => ({
  read: (_: unknown, given: unknown) => (isId(given) ? given : new Unfit(`the id of ${what}`)),
  write: (_: unknown, value: string) => value,
  parse: (_: unknown, text: string) => text.trim(),
  summary: (_: unknown, value: string) => value,
  range: () => `the id of ${what}`,
});

const one = (kind: NamedKind): Naming<string> => ({ kind, ids: (value) => (value === '' ? [] : [value]), renamed: (value, to) => (value === '' ? '' : (to(value) ?? '')) });

export const elementKind: ParamKind<ElementParam> = { ...idOf('an element'), names: one('element') };
export const layerKind: ParamKind<LayerParam> = { ...idOf('a layer'), names: one('layer') };
export const maskKind: ParamKind<MaskParam> = { ...idOf('a mask'), names: one('mask') };
export const scenarioKind: ParamKind<ScenarioParam> = idOf('a scenario');

export const materialsKind: ParamKind<MaterialsParam> = {
  read: (_, given) => (Array.isArray(given) && given.length <= LIMITS.termMaterials && given.every((id) => isId(id) && id !== '') ? given : new Unfit(`a list of at most ${LIMITS.termMaterials} ids of materials`)),
  write: (_, value) => value.join(','),
  parse: (_, text) => (text.trim() === '' ? [] : text.split(',').map((id) => id.trim())),
  summary: (_, value) => (value.length === 1 ? 'one material' : `${value.length} materials`),
  range: () => 'ids of materials',
  names: { kind: 'materials', ids: (value) => value, renamed: (value, to) => value.flatMap((id) => to(id) ?? []) },
};
