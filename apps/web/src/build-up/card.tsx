import { useDraggable } from '@dnd-kit/core';
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { blendMode, type ChainCorrection, completeParams, correctionBlend, correctionById, correctionLabel, isCorrectionId, findLayer, findMask, type GroupLayer, isPictureLayer, type Layer, type PictureLayer, summaryOf } from '@tazzel/core';
import { ChevronsLeft, ChevronsRight, GripVertical, Lock } from 'lucide-react';
import { memo } from 'react';
import { Check } from '../ui/check.tsx';
import { layerKind } from '../layers/registry.ts';
import { MaskPicture } from '../ui/mask-picture.tsx';
import { NameField } from '../ui/name-field.tsx';
import { useActions, usePart, useSession } from '../workspace/context.ts';
import { CardPicture } from './card-picture.tsx';

interface CardProps {
  readonly layerId: string;
  readonly folded: boolean;
  readonly renameSignal: number;
}

/** One course of the section: what it is, what it shows, what the picture is after it. Drawn anew only when the layer itself changed. */
export const Card = memo(function Card({ layerId, ...looks }: CardProps) {
  const layer = usePart((document) => findLayer(document, layerId)?.layer ?? null);
  const groupsAround = usePart((document) => findLayer(document, layerId)?.groupIds.length ?? 0);
  return layer && <DrawnCard layer={layer} groupsAround={groupsAround} {...looks} />;
});

function DrawnCard({ layer, groupsAround, folded, renameSignal }: Omit<CardProps, 'layerId'> & { readonly layer: Layer; readonly groupsAround: number }) {
  const actions = useActions();
  const selected = useSession((state) => state.selectedLayerId === layer.id);
  const { setNodeRef, setActivatorNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({ id: layer.id });
  const isOpen = useSession((state) => state.openGroupIds.has(layer.id));
  // A rule over the cards that belong to a group, one for each group around them.
  const depth = groupsAround + (layer.kind === 'group' && isOpen ? 1 : 0);
  const frame = `relative flex shrink-0 flex-col border bg-panel ${selected ? 'border-ink shadow-[0_0_0_1px_var(--ink)]' : 'border-rule'} ${isDragging ? 'z-10 opacity-80' : ''}`;
  const style = { transform: CSS.Translate.toString(transform), transition, borderTopWidth: 1 + 3 * depth };
  const grip = (
    <button type="button" ref={setActivatorNodeRef} {...attributes} {...listeners} aria-label={`Move ${layer.name}`} className="grid h-5 w-3.5 shrink-0 cursor-grab touch-none place-items-center text-faint hover:text-ink">
      <GripVertical size={12} aria-hidden />
    </button>
  );
  const onOff = <Check bare label={`${layer.name} on`} checked={layer.visible} onChange={(visible) => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { visible } })} />;

  if (folded) {
    return (
      <li ref={setNodeRef} style={style} data-layer={layer.id} className={`${frame} w-9 items-center gap-1 py-1.5`}>
        {onOff}
        {layer.kind === 'group' && <GroupButton group={layer} isOpen={isOpen} />}
        <button type="button" aria-current={selected} aria-label={`Select ${layer.name}`} onClick={() => actions.selectLayer(layer.id)} className={`min-h-0 flex-1 ${layer.visible ? '' : 'opacity-45'}`}>
          <span className="block max-h-full truncate [writing-mode:vertical-rl]">{layer.name}</span>
        </button>
        {grip}
      </li>
    );
  }
  return (
    <li ref={setNodeRef} style={style} data-layer={layer.id} className={`${frame} w-[176px]`}>
      <div className="flex h-[24px] shrink-0 items-center gap-1 pr-0.5 pl-1.5">
        {onOff}
        <NameField label="Layer" value={layer.name} editSignal={renameSignal} isEditTarget={selected} onSelect={() => actions.selectLayer(layer.id)} onCommit={(name) => actions.edit({ type: 'set-layer', layerId: layer.id, patch: { name } })} className="flex-1 font-medium" />
        {layer.locked && <Lock size={11} aria-label="Locked" className="shrink-0 text-faint" />}
        {layer.kind === 'group' && <GroupButton group={layer} isOpen={isOpen} />}
        {grip}
      </div>
      <div className={`h-[5px] shrink-0 border-y ${layer.kind === 'picture' ? layerKind(layer.type).hatch : `hatch-${layer.kind}`}`} />
      <button type="button" aria-current={selected} aria-label={`Select ${layer.name}`} onClick={() => actions.selectLayer(layer.id)} onPointerDown={(event) => listeners?.onPointerDown?.(event)} className={`flex min-h-0 flex-1 flex-col text-left ${layer.visible ? '' : 'opacity-45'}`}>
        <span className="grid min-h-[34px] w-full flex-1 basis-0 grid-cols-2 gap-px overflow-hidden bg-hair">
          <span className="checker block min-h-0 min-w-0">{layer.kind !== 'correction' ? (
              <CardPicture kind="own" layerId={layer.id} />
            ) : (
              <span className="hatch-correction grid h-full place-items-center p-1 text-center text-[11px] leading-tight">
                <span className="narrow line-clamp-3 bg-sheet px-1 py-0.5">{summary(layer)}</span>
              </span>
            )}
          </span>
          <span className="checker block min-h-0 min-w-0">
            <CardPicture kind="so far" layerId={layer.id} />
          </span>
        </span>
        <Facts layer={layer} />
      </button>
      {isPictureLayer(layer) && layer.chain.length > 0 && <ChainTabs layer={layer} />}
    </li>
  );
}

const count = (group: GroupLayer) => `${group.layers.length} layer${group.layers.length === 1 ? '' : 's'}`;

function GroupButton({ group, isOpen }: { group: GroupLayer; isOpen: boolean }) {
  const actions = useActions();
  const label = isOpen ? `Fold ${group.name}` : `Open ${group.name}: ${count(group)}`;
  return (
    <button type="button" aria-expanded={isOpen} aria-label={label} title={label} onClick={() => actions.toggleGroup(group.id)} className="grid h-5 w-5 shrink-0 place-items-center text-faint hover:text-ink">
      {isOpen ? <ChevronsLeft size={14} aria-hidden /> : <ChevronsRight size={14} aria-hidden />}
    </button>
  );
}

/** The values of a correction in few words: `−0.35 EV`. */
function summary(layer: Extract<Layer, { kind: 'correction' }>): string {
  if (!isCorrectionId(layer.correction.type)) return 'does nothing';
  const spec = correctionById(layer.correction.type);
  return summaryOf(spec, completeParams(spec, layer.correction.params)) || 'as it was';
}

function Facts({ layer }: { layer: Layer }) {
  const maskId = layer.mask?.maskId;
  const mask = useSession(({ document }) => (maskId === undefined ? null : findMask(document, maskId)));
  return (
    <span className="narrow block px-1.5 py-0.5 text-[12px] leading-[1.3]">
      <span className="flex justify-between gap-2">
        <span className="truncate">{layer.kind === 'correction' ? `${correctionLabel(layer.correction.type)}${layer.correction.blend === 'all' ? '' : `, ${correctionBlend(layer.correction.blend).label.toLowerCase()}`}` : layer.kind === 'group' && !layer.isolated ? count(layer) : blendMode(layer.blend).label}</span>
        <span className="figure text-[11px]">{Math.round(layer.opacity * 100)} %</span>
      </span>
      <span className="flex items-center gap-1 truncate text-faint">
        {mask && <MaskPicture mask={mask} className="h-[14px] shrink-0" />}
        <span className="truncate">{mask ? `${layer.mask?.inverted ? 'not ' : ''}${mask.name}${layer.mask?.enabled ? '' : ' (mask off)'}` : 'everywhere'}</span>
      </span>
    </span>
  );
}

/** The layer's own corrections as tabs at the foot of its card. */
function ChainTabs({ layer }: { layer: PictureLayer }) {
  return (
    <div className="flex shrink-0 gap-px overflow-hidden border-t px-1 pt-px">
      {layer.chain.map((correction) => (
        <ChainTab key={correction.id} layerId={layer.id} correction={correction} />
      ))}
    </div>
  );
}

/** Dragged onto another card it goes into the chain of that one. */
function ChainTab({ layerId, correction }: { layerId: string; correction: ChainCorrection }) {
  const actions = useActions();
  const isSelected = useSession((state) => state.selectedCorrectionId === correction.id);
  const label = correctionLabel(correction.type);
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: `link ${layerId} ${correction.id}`, data: { link: { layerId, correctionId: correction.id }, label } });
  return (
    <button
      ref={setNodeRef}
      type="button"
      aria-current={isSelected}
      title={`${label}, of this layer alone. Drag it onto another card to carry it over.`}
      onClick={() => actions.selectLayer(layerId, correction.id)}
      onPointerDown={(event) => listeners?.onPointerDown?.(event)}
      className={`narrow min-w-0 truncate border border-b-0 px-1 text-[11px] aria-[current=true]:border-ink aria-[current=true]:bg-sheet ${correction.visible ? '' : 'opacity-45'} ${isDragging ? 'opacity-30' : ''}`}
    >
      {label}
    </button>
  );
}
