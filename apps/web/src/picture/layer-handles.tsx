/** Handles of the selected layer on the picture: where it lies, where its ramp runs, where a correction has its centre. */
import { chainOf, completeParams, correctionById, type CorrectionUse, type Edit, findLayer, isCorrectionId, isLayerType, isPictureLayer, knownLayer, type Layer, type Placement, placementOf, type Point, type Region, SCALE_LIMITS, type TazzelDocument } from '@tazzel/core';
import { layerKind } from '../layers/registry.ts';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { type Handle, Handles, type Place } from './handles.tsx';

export function LayerHandles() {
  const document = useDocument();
  const layerId = useSession((state) => state.selectedLayerId);
  const correctionId = useSession((state) => state.selectedCorrectionId);
  const layer = layerId ? findLayer(document, layerId)?.layer : null;
  if (!layer?.visible) return null;
  const link = chainOf(layer).find(({ id }) => id === correctionId);
  const use = link ?? (layer.kind === 'correction' ? layer.correction : null);
  if (use && isCorrectionId(use.type) && centresOf(use).length > 0) return <CentreHandles layerId={layer.id} correctionId={link?.id} use={use} />;
  const Own = isPictureLayer(layer) && isLayerType(layer.type) && !link ? layerKind(layer.type).handles?.(layer) : null;
  if (Own && isPictureLayer(layer)) return <Own layer={layer} />;
  const placement = placementOf(layer);
  return placement && !link ? <PlacementHandles layer={layer} placement={placement} box={boxOf(document, layer)} /> : null;
}

const cross = ({ x, y }: Place, arm: number) => `M${x - arm} ${y}L${x + arm} ${y}M${x} ${y - arm}L${x} ${y + arm}`;
const tenths = (value: number) => Math.round(value * 10) / 10;

function CentreHandles({ layerId, correctionId, use }: { layerId: string; correctionId?: string; use: CorrectionUse }) {
  const { size } = useDocument();
  const actions = useActions();
  const spec = correctionById(use.type);
  const points = centresOf(use);
  return (
    <Handles
      label={`Handles of ${spec.label.toLowerCase()}`}
      handles={points.map(({ param: { label, unit }, value: [x, y] }): Handle => ({ label, at: unit === '%' ? [(x / 100) * size.width, (y / 100) * size.height] : [x, y], look: 'round' }))}
      outline={(places) => places.map((place) => cross(place, 14)).join('')}
      onMove={(handle, [x, y], gesture) => {
        const { name, param } = points[handle];
        const value = param.unit === '%' ? ([tenths((x / size.width) * 100), tenths((y / size.height) * 100)] as const) : ([tenths(x), tenths(y)] as const);
        actions.edit({ type: 'set-params', layerId, ...(correctionId ? { correctionId } : {}), params: { [name]: value } }, gesture);
      }}
    />
  );
}

/** The places on the picture that a correction has. */
function centresOf(use: CorrectionUse) {
  const spec = correctionById(use.type);
  const values = completeParams(spec, use.params);
  return Object.entries(spec.params).flatMap(([name, param]) => (param.kind === 'point' ? [{ name, param, value: values[name] as Point }] : []));
}

/** Where the pixels of a layer lie before it is placed. */
function boxOf(document: TazzelDocument, layer: Layer): Region {
  const known = isPictureLayer(layer) ? knownLayer(layer) : null;
  return known?.spec.boxOf?.({ document, values: known.values, layerId: layer.id }) ?? { x: 0, y: 0, ...document.size };
}

const CORNERS = [[-1, -1, 'Upper left corner'], [1, -1, 'Upper right corner'], [1, 1, 'Lower right corner'], [-1, 1, 'Lower left corner']] as const;
const SIDES = [[1, 0, 'Right side'], [0, 1, 'Lower side'], [-1, 0, 'Left side'], [0, -1, 'Upper side']] as const;
/** How far the handle that turns stands off the upper side, as a share of the height. */
const STEM = 0.12;

/** Points of a placed box: its middle, corners, sides, and the stem above it. */
function pointsOf({ x, y, width, height }: Region, { offsetX, offsetY, scaleX, scaleY, rotationDegrees }: Placement): readonly Point[] {
  const angle = (rotationDegrees * Math.PI) / 180;
  const middle: Point = [x + width / 2 + offsetX, y + height / 2 + offsetY];
  const at = (s: number, t: number): Point => {
    const [u, v] = [(s * width * scaleX) / 2, (t * height * scaleY) / 2];
    return [middle[0] + u * Math.cos(angle) - v * Math.sin(angle), middle[1] + u * Math.sin(angle) + v * Math.cos(angle)];
  };
  return [middle, ...CORNERS.map(([s, t]) => at(s, t)), ...SIDES.map(([s, t]) => at(s, t)), at(0, -1 - 2 * STEM)];
}

const inScale = (value: number) => Math.min(SCALE_LIMITS[1], Math.max(SCALE_LIMITS[0], Math.round(value * 1e4) / 1e4));

/** What a placement becomes when one of its points is moved. Corners scale evenly, sides one way, the stem turns. */
export function placedBy(box: Region, placement: Placement, point: number, [x, y]: Point): Placement {
  const [middle] = pointsOf(box, placement);
  if (point === 0) return { ...placement, offsetX: tenths(placement.offsetX + x - middle[0]), offsetY: tenths(placement.offsetY + y - middle[1]) };
  const angle = (placement.rotationDegrees * Math.PI) / 180;
  const [dx, dy] = [x - middle[0], y - middle[1]];
  if (point === 9) {
    const up = placement.scaleY < 0 ? -90 : 90;
    const degrees = (Math.atan2(dy, dx) * 180) / Math.PI + up;
    return { ...placement, rotationDegrees: tenths(((degrees + 540) % 360) - 180) };
  }
  // Seen along the axes of the box.
  const [u, v] = [dx * Math.cos(angle) + dy * Math.sin(angle), -dx * Math.sin(angle) + dy * Math.cos(angle)];
  if (point > 4) {
    const [s, t] = SIDES[point - 5];
    return s !== 0 ? { ...placement, scaleX: inScale((s * u * 2) / box.width) } : { ...placement, scaleY: inScale((t * v * 2) / box.height) };
  }
  const [s, t] = CORNERS[point - 1];
  const [cu, cv] = [(s * box.width * placement.scaleX) / 2, (t * box.height * placement.scaleY) / 2];
  const before = Math.hypot(cu, cv);
  // Along the diagonal, so that the shape stays what it is.
  const factor = before > 0 ? Math.max(0.01, (u * cu + v * cv) / before ** 2) : 1;
  return { ...placement, scaleX: inScale(placement.scaleX * factor), scaleY: inScale(placement.scaleY * factor) };
}

function PlacementHandles({ layer, placement, box }: { layer: Layer; placement: Placement; box: Region }) {
  const actions = useActions();
  const labels = ['Move it', ...CORNERS.map(([, , label]) => label), ...SIDES.map(([, , label]) => label), 'Turn it'];
  const place = (next: Placement, gesture: string) => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { placement: next } } satisfies Edit, gesture);
  return (
    <Handles
      label={`Handles of ${layer.name}`}
      handles={pointsOf(box, placement).map((at, i): Handle => ({ label: labels[i], at, look: i === 0 || i === 9 ? 'round' : 'square' }))}
      outline={(places) => `M${places.slice(1, 5).map(({ x, y }) => `${x} ${y}`).join('L')}ZM${places[8].x} ${places[8].y}L${places[9].x} ${places[9].y}${cross(places[0], 12)}`}
      onMove={(handle, to, gesture) => place(placedBy(box, placement, handle, to), gesture)}
    />
  );
}
