import { findLayer, findMask, findMaterial, findSource, layersOn } from '@tazzel/core';
import type { StageId } from '@tazzel/editor';
import { DeliverBench } from '../deliver/deliver-bench.tsx';
import { useDocument, useSession } from '../workspace/context.ts';
import { ElementBench } from './element-bench.tsx';
import { LayerBench } from './layer-bench.tsx';
import { SetBench } from './set-bench.tsx';
import { MaskBench } from './mask-bench.tsx';
import { MaterialBench } from './material-bench.tsx';

const POINT = 'Point into the picture: the material under the pointer is outlined and named. A click selects it, Shift adds, Alt takes away; then it can be corrected here or kept as a mask.';
const READING = 'The pictures of IDs are being read. Soon the material under the pointer is outlined and named here.';
const NO_IDS = 'Without a material ID picture there are no materials to point at.';

/** The parameters of what is selected; the stage says of what. */
export function Bench({ stage }: { stage: StageId }) {
  const document = useDocument();
  const layerId = useSession((state) => state.selectedLayerId);
  const sourceId = useSession((state) => state.selectedSourceId);
  const materialIds = useSession((state) => state.selectedMaterialIds);
  const subject = useSession((state) => state.maskSubject);
  const isReading = useSession((state) => state.readsSchedule);
  const place = layerId ? findLayer(document, layerId) : null;
  const source = sourceId ? findSource(document, sourceId) : null;
  const materials = materialIds.flatMap((id) => findMaterial(document, id) ?? []);
  const mask = subject.kind === 'mask' ? findMask(document, subject.maskId) : null;
  const layer = place ? <LayerBench key={place.layer.id} place={place} /> : <Empty>Select a layer in the build-up below; its parameters stand here.</Empty>;
  const worksHere = place !== null && materials.some(({ id }) => layersOn(document, id).includes(place.layer));
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable with the keyboard
    <aside aria-label="Bench" tabIndex={0} className="min-h-0 flex-1 overflow-auto -outline-offset-2">
      {stage === 'deliver' && <DeliverBench />}
      {stage === 'build-up' && layer}
      {stage === 'elements' && (source ? <ElementBench key={source.id} source={source} /> : <SetBench />)}
      {stage === 'surfaces' && mask && <MaskBench key={mask.id} mask={mask} />}
      {stage === 'surfaces' && !mask && materials.length > 0 && <MaterialBench materials={materials}>{worksHere && layer}</MaterialBench>}
      {stage === 'surfaces' && !mask && materials.length === 0 && <Empty>{document.materials.length > 0 ? POINT : isReading ? READING : NO_IDS}</Empty>}
    </aside>
  );
}

const Empty = ({ children }: { children: React.ReactNode }) => <p className="p-3 text-faint">{children}</p>;
