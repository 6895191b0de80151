import { endOfLayer, findLayer, layersInOrder } from '../model/query.ts';
import type { TazzelDocument } from '../model/model.ts';
import { layer } from '../params/references.ts';
import { defineLayer } from './define.ts';

/** Why a snapshot cannot show the picture after a layer: it would show itself, or what comes after it. */
function snapshotProblem(document: TazzelDocument, snapshotId: string | null, layerId: string): string | null {
  const shown = findLayer(document, layerId);
  if (!shown) return 'the layer that it shows is gone. Choose another one.';
  if (snapshotId === null) return null;
  if (snapshotId === layerId || (shown.layer.kind === 'group' && findLayer(document, snapshotId)?.groupIds.includes(layerId))) return 'a snapshot cannot show itself. Choose a layer below it.';
  const own = layersInOrder(document).findIndex((place) => place.layer.id === snapshotId);
  return own >= 0 && endOfLayer(document, layerId) >= own ? `${shown.layer.name} does not lie below it. Choose a layer below, or move the snapshot up.` : null;
}

/** The picture as it is after a layer below, live. */
export const snapshot = defineLayer({
  id: 'snapshot',
  label: 'Snapshot',
  summary: 'The picture so far, as one picture to work on; it follows what changes below.',
  isPlaced: true,
  params: { after: layer({ label: 'Shows after', help: 'The layer after which the picture is shown.' }) },
  nameOf: ({ document, values }) => `After ${findLayer(document, values.after)?.layer.name ?? 'nothing'}`,
  problem: ({ document, layerId, values }) => snapshotProblem(document, layerId, values.after),
  origin: ({ after }, { zone, pictureAfter }) => ({ from: { kind: 'picture', node: pictureAfter(after) }, domain: zone === 'scene' ? 'light' : 'display', bounded: zone === 'picture', scale: null, domainRegion: null }),
});
