/**
 * Kinds of layers that hold a picture of their own. They share chain, blend mode, opacity, mask and, as far as their pixels lie somewhere,
 * placement; a row here says what else belongs to a kind, and everything that looks into layers asks these rows.
 */
import * as yup from 'yup';
import { FILL_SHAPES } from '../evaluate/fill.ts';
import { PLACEMENT_FILTERS } from '../raster/filters.ts';
import { LIMITS } from './limits.ts';
import type { Layer, PictureLayer, Placement, TazzelDocument } from './model.ts';
import { endOfLayer, findLayer, findSource, layersInOrder } from './query.ts';

interface PictureKind<L extends PictureLayer> {
  readonly label: string;
  /** Whether it can be moved, scaled and turned. */
  readonly isPlaced: boolean;
  readonly schema: yup.ObjectShape;
  /** Without this the layer cannot be kept: “its element is missing”. */
  readonly fault: (document: Pick<TazzelDocument, 'sources'>, layer: L) => string | null;
  /** Why it shows nothing, as a sentence about it; null if it does. */
  readonly problem: (document: TazzelDocument, layer: L) => string | null;
}

const id = () => yup.string().strict().defined().min(1).max(LIMITS.id);
const number = (low: number, high: number) => yup.number().strict().defined().min(low).max(high).test('finite', '${path} must be a finite number', (value) => Number.isFinite(value));
const pair = () => yup.array(number(-LIMITS.coordinate, LIMITS.coordinate)).strict().defined().length(2);
/** Light of a fill: as bright as any file can hold. */
const color = () => yup.array(number(0, 65504)).strict().defined().length(4).test('alpha', '${path} must have an alpha from 0 to 1', (value) => value !== undefined && value[3] <= 1);

export const SCALE_LIMITS = [-100, 100] as const;

export const placementSchema = yup
  .object({ offsetX: number(-LIMITS.coordinate, LIMITS.coordinate), offsetY: number(-LIMITS.coordinate, LIMITS.coordinate), scaleX: number(...SCALE_LIMITS), scaleY: number(...SCALE_LIMITS), rotationDegrees: number(-360, 360), filter: yup.string().strict().defined().oneOf(PLACEMENT_FILTERS) })
  .noUnknown()
  .strict()
  .nullable()
  .defined();

export const pictureKinds: { readonly [K in PictureLayer['kind']]: PictureKind<Extract<PictureLayer, { kind: K }>> } = {
  element: {
    label: 'Element',
    isPlaced: true,
    schema: { sourceId: id(), placement: placementSchema },
    fault: (document, { sourceId }) => (findSource(document as TazzelDocument, sourceId) === null ? 'its element is missing' : null),
    problem: () => null,
  },
  fill: {
    label: 'Fill',
    isPlaced: false,
    schema: { fill: yup.object({ shape: yup.string().strict().defined().oneOf(FILL_SHAPES), from: color(), to: color(), start: pair(), end: pair() }).noUnknown().strict() },
    fault: () => null,
    problem: () => null,
  },
  snapshot: {
    label: 'Snapshot',
    isPlaced: true,
    schema: { layerId: id(), placement: placementSchema },
    fault: () => null,
    problem: (document, layer) => snapshotProblem(document, layer.id, layer.layerId),
  },
};

/** Why a snapshot cannot show the picture after a layer: it would show itself, or what comes after it. */
export function snapshotProblem(document: TazzelDocument, snapshotId: string | null, layerId: string): string | null {
  const shown = findLayer(document, layerId);
  if (!shown) return 'the layer that it shows is gone. Choose another one.';
  if (snapshotId === null) return null;
  if (snapshotId === layerId || shown.layer.kind === 'group' && findLayer(document, snapshotId)?.groupIds.includes(layerId)) return 'a snapshot cannot show itself. Choose a layer below it.';
  const own = layersInOrder(document).findIndex(({ layer }) => layer.id === snapshotId);
  return own >= 0 && endOfLayer(document, layerId) >= own ? `${shown.layer.name} does not lie below it. Choose a layer below, or move the snapshot up.` : null;
}

export const isPictureLayer = (layer: Layer): layer is PictureLayer => Object.hasOwn(pictureKinds, layer.kind);

const kindOf = <L extends PictureLayer>(layer: L): PictureKind<L> => pictureKinds[layer.kind] as unknown as PictureKind<L>;
export const faultOf = (document: Pick<TazzelDocument, 'sources'>, layer: PictureLayer): string | null => kindOf(layer).fault(document, layer);
export const problemOf = (document: TazzelDocument, layer: PictureLayer): string | null => kindOf(layer).problem(document, layer);

/** How a layer is placed; null where it lies as its pixels do. */
export const placementOf = (layer: Layer): Placement | null => ('placement' in layer ? layer.placement : null);

export const UNPLACED: Placement = { offsetX: 0, offsetY: 0, scaleX: 1, scaleY: 1, rotationDegrees: 0, filter: 'mitchell' };
