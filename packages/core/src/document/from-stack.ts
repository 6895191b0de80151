/** A document of a stack of finished pictures, as files of layers hold them: all of it lies over the tone line, one element a layer. */
import type { BlendModeId } from '../blend/modes.ts';
import { layerSpec } from '../layers/registry.ts';
import { emptyDocument, type GroupLayer, type Layer, MAX_GROUP_DEPTH, type PictureLayer, type Source, type TazzelDocument } from '../model/model.ts';
import { freshIds } from '../model/query.ts';
import { completeParams } from '../params/table.ts';
import type { Size } from '../raster/region.ts';
import { asPicture } from './figures.ts';
import { STACK_OPERATORS } from './layer-stack.ts';

interface GivenEntry {
  readonly name: string;
  /** As `svg:multiply`. */
  readonly operator: string;
  readonly opacity: number;
  readonly visible: boolean;
}
/** A layer that shows a picture file at a place, or a group of them. */
export type GivenItem = GivenEntry &
  (
    | { readonly kind: 'picture'; readonly fileName: string; readonly x: number; readonly y: number }
    /** From the lowest on. */
    | { readonly kind: 'group'; readonly isolated: boolean; readonly items: readonly GivenItem[] }
  );

const ELEMENT = 'element';
const modes = new Map(Object.entries(STACK_OPERATORS).map(([mode, operator]) => [operator, mode as BlendModeId]));

/**
 * @param items from the lowest on
 * @param sources what was read of their files, by the files' names
 * @returns the document, and what is not as the file says it, in sentences
 */
export function documentOfStack(id: string, name: string, size: Size, items: readonly GivenItem[], sources: readonly Source[]): { readonly document: TazzelDocument; readonly problems: readonly string[] } {
  const problems: string[] = [];
  const used: Source[] = [];
  const empty = emptyDocument(id, name, size);
  const [nextLayer, nextSource] = [freshIds(empty, 'layer'), freshIds(null, 'source')];
  const common = ({ name: label, operator, opacity, visible }: GivenEntry) => {
    const blend = modes.get(operator);
    if (!blend) problems.push(`“${label}”: its mode ${operator} is not known here. It covers what is below.`);
    return { id: nextLayer(), name: label, visible, opacity, mask: null, blend: blend ?? ('normal' as const) };
  };
  const layerOf = (item: GivenItem, depth: number): Layer[] => {
    if (item.kind === 'group') {
      if (depth < MAX_GROUP_DEPTH) return [{ ...common(item), kind: 'group', isolated: item.isolated, layers: item.items.flatMap((each) => layerOf(each, depth + 1)) } satisfies GroupLayer];
      problems.push(`“${item.name}”: groups lie at most ${MAX_GROUP_DEPTH} deep. Its layers were taken out of it.`);
      return item.items.flatMap((each) => layerOf(each, depth));
    }
    const source = sources.find(({ file }) => file.name === item.fileName);
    if (!source) return [];
    // One file may be shown by several layers, at several places.
    const own = { ...asPicture(source), id: nextSource(), name: item.name, x: item.x, y: item.y };
    used.push(own);
    return [{ ...common(item), kind: 'picture', type: ELEMENT, params: completeParams(layerSpec(ELEMENT), { source: own.id }), chain: [], placement: null } satisfies PictureLayer];
  };
  const picture = items.flatMap((item) => layerOf(item, 0));
  return { document: { ...empty, sources: used, buildUp: { scene: [], picture } }, problems };
}
