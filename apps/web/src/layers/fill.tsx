import { completeParams, layerSpec, type ParamValue, type PictureLayer, type Point } from '@tazzel/core';
import { ParamFields } from '../fields/param-fields.tsx';
import { type Handle, Handles } from '../picture/handles.tsx';
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

function RampHandles({ layer }: { layer: PictureLayer }) {
  const actions = useActions();
  const { shape, start, end } = rampOf(layer);
  const radial = shape === 'radial';
  const handles: Handle[] = [{ label: radial ? 'Middle of the ramp' : 'The ramp begins here', at: start, look: 'round' }, { label: 'The ramp ends here', at: end }];
  return (
    <Handles
      label="Handles of the ramp"
      handles={handles}
      outline={([from, to]) => {
        const radius = Math.hypot(to.x - from.x, to.y - from.y);
        return `M${from.x} ${from.y}L${to.x} ${to.y}${radial ? `M${from.x - radius} ${from.y}a${radius} ${radius} 0 1 0 ${2 * radius} 0a${radius} ${radius} 0 1 0 ${-2 * radius} 0` : ''}`;
      }}
      onMove={(handle, to, gesture) => {
        // The middle of a round ramp takes its rim along.
        const along: Point = radial && handle === 0 ? [end[0] + to[0] - start[0], end[1] + to[1] - start[1]] : end;
        actions.edit({ type: 'set-params', layerId: layer.id, params: handle === 0 ? { start: to, end: along } : { end: to } }, gesture);
      }}
    />
  );
}

export const fillKind: LayerKind = { hatch: 'hatch-fill', Fields: FillFields, handles: (layer) => (rampOf(layer).shape === 'plain' ? null : RampHandles) };
