import { completeParams, layerSpec, type ParamValue, type PictureLayer, type Point } from '@tazzel/core';
import { type HandleSet, linePath, type SessionStore } from '@tazzel/editor';
import { ParamFields } from '../fields/param-fields.tsx';
import { useActions, useDocument } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';
import { LayerFields } from './layer-fields.tsx';

interface Ramp {
  readonly shape: 'plain' | 'linear' | 'radial';
  readonly start: Point;
  readonly end: Point;
}
const rampOf = (layer: PictureLayer) => completeParams(layerSpec('fill'), layer.params) as unknown as Ramp;

/** One colour, or the two ends of a ramp; a new shape is laid where one sees it. */
function FillFields({ layer }: { layer: PictureLayer }) {
  const { size } = useDocument();
  const actions = useActions();
  const { params } = layerSpec('fill');
  const { shape } = rampOf(layer);
  const [across, down] = [size.width / 2, size.height / 2];
  const places: Readonly<Record<string, Readonly<Record<string, ParamValue>>>> = {
    plain: {},
    linear: { start: [across, 0], end: [across, size.height] },
    radial: { start: [across, down], end: [across, down + Math.min(across, down)] },
  };
  return (
    <>
      <ParamFields params={{ shape: params.shape }} values={{ shape }} onChange={(patch) => actions.edit({ type: 'set-params', layerId: layer.id, params: { ...patch, ...places[String(patch.shape)] } })} />
      {shape === 'plain' ? (
        <LayerFields layer={layer} only={['from']} />
      ) : (
        <>
          <LayerFields layer={layer} only={['from', 'fromCoverPercent', 'to', 'toCoverPercent']} labels={{ from: 'Begins with' }} />
          <p className="text-[12px] text-faint">Drag the two handles on the picture to place the ramp.</p>
        </>
      )}
    </>
  );
}

function rampHandles(layer: PictureLayer, session: SessionStore): HandleSet | null {
  const { shape, start, end } = rampOf(layer);
  if (shape === 'plain') return null;
  const radial = shape === 'radial';
  return {
    key: layer.id,
    layerId: layer.id,
    label: 'Handles of the ramp',
    handles: [{ label: radial ? 'Middle of the ramp' : 'The ramp begins here', at: start, look: 'round' }, { label: 'The ramp ends here', at: end }],
    outline: ([from, to]) => {
      const radius = Math.hypot(to[0] - from[0], to[1] - from[1]);
      return `${linePath([from, to])}${radial ? `M${from[0] - radius} ${from[1]}a${radius} ${radius} 0 1 0 ${2 * radius} 0a${radius} ${radius} 0 1 0 ${-2 * radius} 0` : ''}`;
    },
    move: (handle, to, gesture) => {
      // The middle of a round ramp takes its rim along.
      const along: Point = radial && handle === 0 ? [end[0] + to[0] - start[0], end[1] + to[1] - start[1]] : end;
      session.actions.edit({ type: 'set-params', layerId: layer.id, params: handle === 0 ? { start: to, end: along } : { end: to } }, gesture);
    },
  };
}

export const fillKind: LayerKind = { hatch: 'hatch-fill', Fields: FillFields, handles: rampHandles };
