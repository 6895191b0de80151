import { type Mask, suggestedMasks, usesOf } from '@tazzel/core';
import { Plus } from 'lucide-react';
import { useMemo } from 'react';
import { IconButton } from '../ui/button.tsx';
import { MaskPicture } from '../ui/mask-picture.tsx';
import { NameField } from '../ui/name-field.tsx';
import { useActions, usePart, useSession, useWorkspace } from '../workspace/context.ts';
import { type Column, Schedule } from './table.tsx';

/** The shelf: named masks, and by how many each is used. Below it those that the names of the materials suggest. */
export function MaskSchedule() {
  const masks = usePart((document) => document.masks);
  const uses = usePart((document) => document.masks.map(({ id }) => usesOf(document, id)).join()).split(',').map(Number);
  const usedBy = new Map(masks.map(({ id }, i) => [id, uses[i]]));
  const actions = useActions();
  const focus = useSession((state) => state.focus);
  const columns: readonly Column<Mask>[] = [
    {
      id: 'name',
      label: 'Mask',
      width: '76%',
      sortBy: (mask) => mask.name,
      cell: (mask) => (
        <span className="flex items-center gap-2">
          <MaskPicture mask={mask} className="h-[22px] shrink-0" />
          <NameField label="Mask" value={mask.name} onSelect={() => actions.showMask(mask.id)} onCommit={(name) => actions.edit({ type: 'set-mask', maskId: mask.id, patch: { name } })} className="min-w-0 flex-1" />
        </span>
      ),
    },
    { id: 'uses', label: 'Used by', width: '24%', align: 'right', sortBy: (mask) => usedBy.get(mask.id) ?? 0, cell: (mask) => String(usedBy.get(mask.id) ?? 0) },
  ];
  return (
    <Schedule
      title="Masks"
      grow={false}
      rows={masks}
      columns={columns}
      idOf={(mask) => mask.id}
      textOf={(mask) => mask.name}
      selectedIds={focus.kind === 'mask' ? [focus.maskId] : []}
      onSelect={actions.showMask}
      action={
        <IconButton label="New mask" hint="M" onClick={() => actions.newMask()}>
          <Plus size={13} aria-hidden />
        </IconButton>
      }
      empty="Correct a material, or select some and keep them as a mask, and it stands here for others to share."
      below={<Suggestions />}
    />
  );
}

/** What most pictures want a mask of: sky, glazing, water, foliage by the names of materials, the rest by alpha, directions and depth. */
function Suggestions() {
  const { session } = useWorkspace();
  const [masks, materials, sources] = [usePart((document) => document.masks), usePart((document) => document.materials), usePart((document) => document.sources)];
  const actions = useActions();
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what it looks at
  const found = useMemo(() => suggestedMasks(session.getState().document), [masks, materials, sources, session]);
  if (found.length === 0) return null;
  return (
    <div className="flex shrink-0 flex-wrap items-center gap-1 border-t px-2 py-1.5">
      <span className="narrow text-[12px] text-faint">Suggested:</span>
      {found.map(({ name, terms }) => (
        <button
          key={name}
          type="button"
          className="border border-rule px-1.5 text-[12px] hover:border-ink"
          onClick={() => actions.edit({ type: 'add-mask', name, terms })}
        >
          + {name}
        </button>
      ))}
    </div>
  );
}
