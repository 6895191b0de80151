/** The build-up as a section: base at the left, finish at the right, the tone line between light and picture. */
import { closestCenter, type CollisionDetection, DndContext, type DragEndEvent, DragOverlay, KeyboardSensor, PointerSensor, pointerWithin, useSensor, useSensors } from '@dnd-kit/core';
import { horizontalListSortingStrategy, SortableContext, sortableKeyboardCoordinates, useSortable } from '@dnd-kit/sortable';
import { CSS as Transforms } from '@dnd-kit/utilities';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type Correction, correctionPlace, findLayer, groupsOf, isToneId, readyGroups, sceneryPlace, toneById, type Zone } from '@tazzel/core';
import { drawCourse, type SessionStore, shownLayers } from '@tazzel/editor';
import { useEffect, useMemo, useRef, useState } from 'react';
import { keepSetting, setting } from '../storage/database.ts';
import { Button } from '../ui/button.tsx';
import { CorrectionMenu } from '../ui/correction-menu.tsx';
import { Menu } from '../ui/menu.tsx';
import { usePieces } from '../ui/pieces.ts';
import { useActions, usePart, useSession, useWorkspace } from '../workspace/context.ts';
import { Card } from './card.tsx';
import { idsInOrder, placeAfterDrag, TONE_LINE } from './place.ts';

// The same objects each time, or every card would be drawn with every change.
const POINTER = { activationConstraint: { distance: 6 } };
const KEYBOARD = { coordinateGetter: sortableKeyboardCoordinates };

/** A tab of a chain falls onto the card under the pointer; a card goes where it is nearest. */
const under: CollisionDetection = (args) => (args.active.data.current?.link ? pointerWithin(args) : closestCenter(args));

/** Widths in pixels, as the cards have them. */
const [CARD_WIDTH, FOLDED_WIDTH, TONE_LINE_WIDTH, GAP, PADDING] = [176, 36, 66, 6, 8];
/** Build-ups up to so long are drawn whole. */
const ALL_DRAWN = 40;

export function BuildUp({ renameSignal }: { renameSignal: number }) {
  const { session } = useWorkspace();
  const actions = useActions();
  const selectedId = useSession((state) => state.selectedLayerId);
  const [folded, setFolded] = useState(false);
  /** What a correction is called that is on its way to another card. */
  const [carried, setCarried] = useState<string | null>(null);
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => void setting('folded', false).then(setFolded), []);
  const sensors = useSensors(useSensor(PointerSensor, POINTER), useSensor(KeyboardSensor, KEYBOARD));
  const order = useSession((state) => JSON.stringify(idsInOrder(shownLayers(state))));
  const ids = useMemo(() => JSON.parse(order) as string[], [order]);
  const isLong = ids.length > ALL_DRAWN;
  // Only cards in sight are drawn where there are many: each has two pictures.
  const virtual = useVirtualizer({
    horizontal: true,
    count: ids.length,
    getScrollElement: () => list.current,
    getItemKey: (i) => ids[i],
    estimateSize: (i) => (ids[i] === TONE_LINE ? TONE_LINE_WIDTH : folded ? FOLDED_WIDTH : CARD_WIDTH),
    gap: GAP,
    paddingStart: PADDING,
    paddingEnd: PADDING,
    scrollPaddingStart: PADDING,
    scrollPaddingEnd: PADDING,
    overscan: 3,
    enabled: isLong,
  });
  const selectedAt = selectedId ? ids.indexOf(selectedId) : -1;
  // biome-ignore lint/correctness/useExhaustiveDependencies: folding changes all widths
  useEffect(() => virtual.measure(), [folded, virtual]);
  const pieces = usePieces(ids.length, 3);
  const isDrawn = pieces >= ids.length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a selection is brought into sight once, not whenever cards move
  useEffect(() => {
    if (selectedAt < 0) return;
    if (isLong) virtual.scrollToIndex(selectedAt, { align: 'auto' });
    else list.current?.querySelector(`[data-layer="${CSS.escape(selectedId ?? '')}"]`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [selectedId, isDrawn]);
  const drawn = isLong ? virtual.getVirtualItems() : [];
  const shown = isLong ? drawn.map(({ key }) => String(key)) : ids.slice(0, pieces);
  const before = (drawn[0]?.start ?? PADDING) - PADDING;
  const after = isLong ? virtual.getTotalSize() - (drawn.at(-1)?.end ?? 0) - PADDING : 0;

  const onDragEnd = ({ active, over }: DragEndEvent) => {
    setCarried(null);
    const link = active.data.current?.link as { layerId: string; correctionId: string } | undefined;
    if (link) {
      if (over && over.id !== link.layerId && over.id !== TONE_LINE) actions.edit({ type: 'carry-correction', ...link, to: String(over.id) });
      return;
    }
    const place = over && placeAfterDrag(session.getState().document, shownLayers(session.getState()), String(active.id), String(over.id));
    if (place) actions.edit({ type: 'move-layer', layerId: String(active.id), ...place });
  };
  const nameOf = (id: string | number) => (id === TONE_LINE ? 'the tone line' : (findLayer(session.getState().document, String(id))?.layer.name ?? 'the layer'));
  const announcements = {
    onDragStart: ({ active }: { active: { id: string | number } }) => `${nameOf(active.id)} is picked up.`,
    onDragOver: ({ active, over }: { active: { id: string | number }; over: { id: string | number } | null }) => (over ? `${nameOf(active.id)} is at ${nameOf(over.id)}.` : undefined),
    onDragEnd: ({ active }: { active: { id: string | number } }) => `${nameOf(active.id)} is put down.`,
    onDragCancel: ({ active }: { active: { id: string | number } }) => `${nameOf(active.id)} is back where it was.`,
  };

  return (
    <section aria-label="Build-up" data-drawn={isDrawn} className="flex min-w-0 flex-1 flex-col">
      <div className="flex h-[26px] shrink-0 items-center gap-2 border-b px-2">
        <h2 className="lettering">Build-up</h2>
        <span className="text-[12px] text-faint">from the base to the finish</span>
        <span className="flex-1" />
        <CorrectAll />
        <Menu trigger={<Button className="h-[22px] px-2 text-[12px]">Add a layer …</Button>} items={() => addItems(session, actions)} />
        <Button
          aria-pressed={folded}
          className="h-[22px] px-2 text-[12px] aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-panel"
          onClick={() => {
            setFolded(!folded);
            keepSetting('folded', !folded);
          }}
        >
          Fold
        </Button>
      </div>
      <DndContext sensors={sensors} collisionDetection={under} onDragStart={({ active }) => setCarried(active.data.current?.label ?? null)} onDragCancel={() => setCarried(null)} onDragEnd={onDragEnd} accessibility={{ announcements }}>
        <SortableContext items={ids} strategy={horizontalListSortingStrategy}>
          <ol ref={list} className="scroll-px-2 flex min-h-0 flex-1 items-stretch gap-1.5 overflow-x-auto overflow-y-hidden px-2 py-1">
            {before > GAP && <li aria-hidden className="shrink-0" style={{ width: before - GAP }} />}
            {ids.length === 1 && <li className="w-64 shrink-0 self-center text-faint">Nothing yet. Drop the files of a render onto the window, or add an element from the list on the left.</li>}
            {shown.map((key) => (key === TONE_LINE ? <ToneLine key={key} /> : <Card key={key} layerId={key} folded={folded} renameSignal={renameSignal} />))}
            {after > GAP && <li aria-hidden className="shrink-0" style={{ width: after - GAP }} />}
          </ol>
        </SortableContext>
        <DragOverlay dropAnimation={null}>{carried && <span className="narrow inline-block border border-ink bg-sheet px-1 text-[11px] whitespace-nowrap">{carried}</span>}</DragOverlay>
      </DndContext>
    </section>
  );
}

/** The divider: a drawn section line with the two zones' names along it. */
function ToneLine() {
  const { setNodeRef, transform, transition } = useSortable({ id: TONE_LINE, disabled: { draggable: true } });
  const actions = useActions();
  const type = usePart((document) => document.tone.type);
  const isSelected = useSession(({ focus }) => focus.kind === 'tone');
  return (
    <li ref={setNodeRef} style={{ transform: Transforms.Translate.toString(transform), transition }} className="flex shrink-0 items-stretch">
      <span className="lettering text-[10px] leading-[18px] text-faint [writing-mode:vertical-rl] text-center">Scene light</span>
      <button type="button" aria-label="Select the tone line" aria-pressed={isSelected} title="Where scene light becomes the picture: select it to choose its curve" onClick={() => actions.selectToneLine()} className="flex items-stretch hover:bg-sheet aria-pressed:bg-sheet aria-pressed:outline-2 aria-pressed:-outline-offset-1 aria-pressed:outline-ink">
        <span aria-hidden className="mx-0.5 w-0 border-l-2 border-dashed border-accent" />
        <span className="lettering text-[10px] leading-[18px] text-accent [writing-mode:vertical-rl] max-h-full truncate text-center">{isToneId(type) ? toneById(type).label : type}</span>
        <span aria-hidden className="mx-0.5 w-0 border-l-2 border-dashed border-accent" />
      </button>
      <span className="lettering text-[10px] leading-[18px] text-faint [writing-mode:vertical-rl] text-center">Picture</span>
    </li>
  );
}

/** A correction of all below the place after the selected layer. */
function CorrectAll() {
  const { session } = useWorkspace();
  const actions = useActions();
  const place = () => {
    const { document, selectedLayerId } = session.getState();
    return selectedLayerId ? findLayer(document, selectedLayerId) : null;
  };
  const where = (correction: Correction) => correctionPlace(correction, place());
  return (
    <CorrectionMenu
      trigger={<Button className="h-[22px] px-2 text-[12px]">Correct all below …</Button>}
      edit={(correction) => ({ type: 'add-correction-layer', correction: correction.id, ...where(correction) })}
      hint={(correction) => (where(correction).zone === (place()?.zone ?? 'scene') ? undefined : `${where(correction).zone === 'picture' ? 'over' : 'under'} the tone line`)}
      onAdd={actions.edit}
    />
  );
}

/** New layers go right after the selected one. */
function addItems(session: SessionStore, actions: ReturnType<typeof useActions>) {
  const { document, selectedLayerId: selectedId } = session.getState();
  const place = selectedId ? findLayer(document, selectedId) : null;
  const zone: Zone = place?.zone ?? 'scene';
  const at = { zone, index: place ? place.index + 1 : undefined, groupId: place?.groupIds.at(-1) };
  return [
    ...(groupsOf(document).length > 0 ? [{ label: 'Light mix', hint: 'all light groups', onSelect: () => void actions.edit({ type: 'add-layer', layer: 'light', ...at }) }] : []),
    { label: 'Sky', hint: 'behind the building', onSelect: () => void actions.edit({ type: 'add-layer', layer: 'sky', ...sceneryPlace(document) }) },
    { label: 'Air', hint: 'haze, mist, fog', onSelect: () => void actions.edit({ type: 'add-layer', layer: 'air', ...(zone === 'scene' ? at : { zone: 'scene' }) }) },
    { label: 'Light trails', hint: 'traffic in a long exposure', onSelect: () => drawCourse(session) },
    { label: 'Fill', hint: 'colour or ramp', onSelect: () => void actions.edit({ type: 'add-layer', layer: 'fill', ...at }) },
    ...(place ? [{ label: 'Snapshot', hint: `after ${place.layer.name}`, onSelect: () => void actions.edit({ type: 'add-layer', layer: 'snapshot', params: { after: place.layer.id }, ...at }) }] : []),
    null,
    ...readyGroups.map((ready) => ({ label: ready.label, hint: ready.lack(document) === null ? 'group' : 'lacks something', disabled: ready.lack(document) !== null, onSelect: () => void actions.edit({ type: 'add-ready-group', group: ready.id }) })),
    null,
    ...document.sources.map((source) => ({ label: source.name, hint: source.encoding, onSelect: () => void actions.edit({ type: 'add-layer', layer: 'element', params: { source: source.id }, ...at }) })),
  ];
}
