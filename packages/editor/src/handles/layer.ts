/** Handles of the selected layer: where it lies, where a correction has its centre. */
import { chainOf, completeParams, correctionById, type CorrectionUse, findLayer, isCorrectionId, isPictureLayer, knownLayer, type Layer, type PictureLayer, type Placement, placementOf, type Point, type Region, SCALE_LIMITS, type TazzelDocument } from '@tazzel/core';
import type { SessionStore } from '../session.ts';
import { crossPath, type Handle, type HandleSet, linePath, tenths } from './define.ts';

/** Handles of a kind of layer's own, instead of those of its place. */
export type OwnHandles = (layer: PictureLayer, session: SessionStore) => HandleSet | null;

export function layerHandles(session: SessionStore, own: OwnHandles): HandleSet | null {
  const { document, selectedLayerId, selectedCorrectionId } = session.getState();
  const layer = selectedLayerId ? findLayer(document, selectedLayerId)?.layer : null;
  if (!layer?.visible) return null;
  const link = chainOf(layer).find(({ id }) => id === selectedCorrectionId);
  const use = link ?? (layer.kind === 'correction' ? layer.correction : null);
  if (use && isCorrectionId(use.type) && centresOf(use).length > 0) return centreHandles(session, layer.id, link?.id, use);
  if (link) return null;
  const special = isPictureLayer(layer) ? own(layer, session) : null;
  const placement = placementOf(layer);
  return special ?? (placement && placementHandles(session, layer, placement, boxOf(document, layer)));
}

function centreHandles(session: SessionStore, layerId: string, correctionId: string | undefined, use: CorrectionUse): HandleSet {
  const { size } = session.getState().document;
  const points = centresOf(use);
  return {
    key: `${layerId} ${correctionId ?? ''}`,
    layerId,
    label: `Handles of ${correctionById(use.type).label.toLowerCase()}`,
    handles: points.map(({ param: { label, unit }, value: [x, y] }): Handle => ({ label, at: unit === '%' ? [(x / 100) * size.width, (y / 100) * size.height] : [x, y], look: 'round' })),
    outline: (places) => places.map((place) => crossPath(place, 14)).join(''),
    move: (handle, [x, y], gesture) => {
      const { name, param } = points[handle];
      const value = param.unit === '%' ? ([tenths((x / size.width) * 100), tenths((y / size.height) * 100)] as const) : ([tenths(x), tenths(y)] as const);
      session.actions.edit({ type: 'set-params', layerId, ...(correctionId ? { correctionId } : {}), params: { [name]: value } }, gesture);
    },
  };
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

function placementHandles(session: SessionStore, layer: Layer, placement: Placement, box: Region): HandleSet {
  const labels = ['Move it', ...CORNERS.map(([, , label]) => label), ...SIDES.map(([, , label]) => label), 'Turn it'];
  return {
    key: layer.id,
    layerId: layer.id,
    label: `Handles of ${layer.name}`,
    handles: pointsOf(box, placement).map((at, i): Handle => ({ label: labels[i], at, look: i === 0 || i === 9 ? 'round' : 'square' })),
    outline: (places) => `${linePath(places.slice(1, 5), true)}${linePath([places[8], places[9]])}${crossPath(places[0], 12)}`,
    move: (handle, to, gesture) => void session.actions.edit({ type: 'set-layer', layerId: layer.id, patch: { placement: placedBy(box, placement, handle, to) } }, gesture),
  };
}
