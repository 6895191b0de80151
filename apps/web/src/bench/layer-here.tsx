import { findLayer } from '@tazzel/core';
import { useSession, useWorkspace } from '../workspace/context.ts';
import { LayerBench } from './layer-bench.tsx';
import { ToneBench } from './tone-bench.tsx';

/** The bench of the selected layer, or of the tone line between them. */
export function LayerHere() {
  const layer = useSession(({ document, selectedLayerId }) => (selectedLayerId ? (findLayer(document, selectedLayerId)?.layer ?? null) : null));
  const isTone = useSession(({ focus }) => focus.kind === 'tone');
  const { session } = useWorkspace();
  if (isTone) return <ToneBench />;
  const place = layer && findLayer(session.getState().document, layer.id);
  return place ? <LayerBench key={place.layer.id} place={place} /> : <p className="p-3 text-faint">Select a layer in the build-up below; its parameters stand here.</p>;
}
