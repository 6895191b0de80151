import type { PictureLayer } from '@tazzel/core';
import { useQueryClient } from '@tanstack/react-query';
import { Scale } from 'lucide-react';
import { Attempts } from '../ui/attempts.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';
import { LayerFields } from './layer-fields.tsx';
import { mirroredSkyParams, renderedSkyElements } from './rendered-sky.ts';

/** What is mirrored, and both skies measured. */
function MirroredSkyFields({ layer }: { layer: PictureLayer }) {
  const { session, engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const client = useQueryClient();
  const measured = async () => {
    const params = await mirroredSkyParams(session.getState().document, client, engine);
    if (params) actions.edit({ type: 'set-params', layerId: layer.id, params });
    return params ? null : 'No sky of its own, or none is seen in this render.';
  };
  return (
    <>
      <LayerFields layer={layer} />
      {renderedSkyElements(document) && <Attempts of={[{ label: 'Measure both skies', icon: Scale, run: measured }]} />}
      <p className="text-[12px] text-faint">Only the renderer knows what a surface mirrors: where it is not the sky, give this layer a mask without it.</p>
    </>
  );
}

export const mirroredSkyKind: LayerKind = { hatch: 'hatch-sky', Fields: MirroredSkyFields };
