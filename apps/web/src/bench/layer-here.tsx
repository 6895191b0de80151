import { findLayer, type TazzelDocument } from '@tazzel/core';
import { useSession } from '../workspace/context.ts';
import { LayerBench } from './layer-bench.tsx';
import { ToneBench } from './tone-bench.tsx';

const placeIn = ({ document, selectedLayerId }: { document: TazzelDocument; selectedLayerId: string | null }) => (selectedLayerId ? findLayer(document, selectedLayerId) : null);

/** The bench of the selected layer, or of the tone line between them. */
export function LayerHere() {
  const isTone = useSession(({ focus }) => focus.kind === 'tone');
  // Apart, since a layer that moves over the tone line is the same layer at another place.
  const layer = useSession((state) => placeIn(state)?.layer ?? null);
  const zone = useSession((state) => placeIn(state)?.zone ?? null);
  if (isTone) return <ToneBench />;
  return layer && zone ? <LayerBench key={layer.id} layer={layer} zone={zone} /> : <p className="p-3 text-faint">Select a layer in the build-up below; its parameters stand here.</p>;
}
