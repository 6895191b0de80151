import { completeParams, correctionById, type CurvePoint, enteringDocument, luminosityOf, monotoneCurve, type Point, withCurvePoint } from '@tazzel/core';
import { openCorrection } from '../session.ts';
import { clickOrPan, type Tool, type ToolHost } from './define.ts';

/** Sets a point of the open curve at the value that a pixel brings to its correction. */
export async function pointOfCurve(host: ToolHost, at: Point): Promise<void> {
  const { document, openCurve } = host.session.getState();
  const open = openCorrection(host.session.getState());
  if (!open) return;
  const { address, use } = open;
  const pixel = host.pixelAt(host.placeBehind(at, address.layerId));
  if (!pixel) return;
  const spec = correctionById(use.type);
  const curves = Object.keys(spec.params).filter((name) => spec.params[name].kind === 'curve');
  const name = curves.includes(openCurve) ? openCurve : curves[0];
  if (!name) return;
  const { codes } = await host.probe(enteringDocument(document, address.layerId, address.correctionId ?? null), pixel.x, pixel.y, 0);
  const [red, green, blue] = Array.from(codes, (code) => Math.min(1, Math.max(0, code / 255)));
  const x = { red, green, blue }[name] ?? luminosityOf([red, green, blue]);
  const points = completeParams(spec, use.params)[name] as readonly CurvePoint[];
  const added = withCurvePoint(points, x, monotoneCurve(points)(x));
  if (added) host.session.actions.edit({ type: 'set-params', ...address, params: { [name]: added.points } });
}

export const curve: Tool = {
  id: 'curve',
  label: 'Set a point of the curve',
  cursor: 'crosshair',
  stages: null,
  press: (host, place) => clickOrPan(host, place, ({ at }) => void pointOfCurve(host, at)),
};
