import { completeParams, correctionById, type CorrectionLayer, isCorrectionId, type Layer, layersInOrder, type TazzelDocument, type Zone } from '@tazzel/core';
import { Eye, EyeOff } from 'lucide-react';
import { IconButton } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { type Column, Schedule } from './table.tsx';

interface LensRow {
  readonly layer: CorrectionLayer;
  readonly zone: Zone;
}

/** A correction of lens or film over all that lies below. */
export const isOfLens = (layer: Layer): layer is CorrectionLayer => layer.kind === 'correction' && isCorrectionId(layer.correction.type) && correctionById(layer.correction.type).group === 'Lens';

/** What lens and film do, in the order in which it is done. */
export const lensRows = (document: TazzelDocument): readonly LensRow[] =>
  layersInOrder(document).flatMap(({ layer, zone }) => (isOfLens(layer) ? [{ layer, zone }] : []));

/** An order that no camera has: the film's grain in front of the lens. Null if it is as usual. */
export function unusualOrder(rows: readonly LensRow[]): string | null {
  const grain = rows.findIndex(({ layer }) => layer.visible && layer.correction.type === 'grain');
  const after = grain < 0 ? undefined : rows.slice(grain + 1).find(({ layer }) => layer.visible && layer.correction.type !== 'grain');
  return after ? `“${rows[grain].layer.name}” comes before “${after.layer.name}”, which then works on grain as well. A camera has it the other way round: drag the card of the grain behind it.` : null;
}

/** Elements that lie over a blur keep the details that it took, and stay in place over what bends the picture: said where some do. */
export function staysBehind(document: TazzelDocument): string | null {
  const layers = layersInOrder(document).map(({ layer }) => layer);
  const changes = (layer: Layer) => (isOfLens(layer) && layer.visible && layer.opacity > 0 && !isIdle(layer) ? correctionById(layer.correction.type).detail : undefined);
  const last = layers.findLastIndex((layer) => changes(layer) !== undefined);
  if (last < 0) return null;
  const over = layers.slice(last + 1).filter((layer) => layer.kind === 'picture' && layer.type === 'element' && layer.visible && layer.opacity > 0);
  if (over.length === 0) return null;
  const names = over.map(({ name }) => `“${name}”`).join(', ');
  const [lies, keeps, those] = over.length === 1 ? ['lies', 'keeps its', 'that one'] : ['lie', 'keep their', 'those'];
  return `${names} ${lies} over “${layers[last].name}” and ${changes(layers[last]) === 'softens' ? `${keeps} details sharp` : `${over.length === 1 ? 'is' : 'are'} not moved with the rest`}. Drag the card of “${layers[last].name}” above, or ${those} below it.`;
}
const isIdle = ({ correction }: CorrectionLayer) => {
  const spec = correctionById(correction.type);
  return spec.isNoOp(completeParams(spec, correction.params));
};

/** Lens and film as a list: switched one by one, or all together to judge them. */
export function LensSchedule() {
  const document = useDocument();
  const actions = useActions();
  const selectedId = useSession((state) => state.selectedLayerId);
  const rows = lensRows(document);
  const isAnyOn = rows.some(({ layer }) => layer.visible);
  const switchAll = () => {
    const gesture = `lens ${Date.now()}`;
    for (const { layer } of rows) if (layer.visible === isAnyOn) actions.edit({ type: 'set-layer', layerId: layer.id, patch: { visible: !isAnyOn } }, gesture);
  };
  const columns: readonly Column<LensRow>[] = [
    {
      id: 'name',
      label: 'Lens',
      width: '100%',
      sortBy: ({ layer }) => layer.name,
      cell: ({ layer, zone }) => (
        <span className="flex items-center gap-2">
          <Check bare label={`${layer.name} on`} checked={layer.visible} onChange={(visible) => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { visible } })} />
          <span className="min-w-0 flex-1 truncate">{layer.name}</span>
          <span className="text-[11px] text-faint">{zone === 'scene' ? 'light' : 'picture'}</span>
        </span>
      ),
    },
  ];
  return (
    <Schedule
      title="Lens and film"
      rows={rows}
      columns={columns}
      idOf={({ layer }) => layer.id}
      textOf={({ layer }) => layer.name}
      selectedIds={selectedId ? [selectedId] : []}
      onSelect={(id) => actions.selectLayer(id)}
      action={
        <IconButton label={isAnyOn ? 'All of it off, to judge' : 'All of it on again'} disabled={rows.length === 0} onClick={switchAll}>
          {isAnyOn ? <Eye size={14} aria-hidden /> : <EyeOff size={14} aria-hidden />}
        </IconButton>
      }
      empty="Nothing yet: focus, glow, tilt blur, vignette, grain."
      below={<Unusual sentences={[unusualOrder(rows), staysBehind(document)]} />}
    />
  );
}

function Unusual({ sentences }: { sentences: readonly (string | null)[] }) {
  return sentences.map((sentence) =>
    sentence ? (
      <p key={sentence} role="status" className="border-t border-hair p-2 text-[12px] text-warn">
        {sentence}
      </p>
    ) : null,
  );
}
