import { type Mask, suggestedMasks, usesOf } from '@tazzel/core';
import { Plus } from 'lucide-react';
import { IconButton } from '../ui/button.tsx';
import { MaskPicture } from '../ui/mask-picture.tsx';
import { NameField } from '../ui/name-field.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { type Column, Schedule } from './table.tsx';

/** The shelf: named masks, and by how many each is used. Below it those that the names of the materials suggest. */
export function MaskSchedule() {
  const document = useDocument();
  const actions = useActions();
  const subject = useSession((state) => state.maskSubject);
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
    { id: 'uses', label: 'Used by', width: '24%', align: 'right', sortBy: (mask) => usesOf(document, mask.id), cell: (mask) => String(usesOf(document, mask.id)) },
  ];
  return (
    <Schedule
      title="Masks"
      grow={false}
      rows={document.masks}
      columns={columns}
      idOf={(mask) => mask.id}
      textOf={(mask) => mask.name}
      selectedIds={subject.kind === 'mask' ? [subject.maskId] : []}
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
  const document = useDocument();
  const actions = useActions();
  const found = suggestedMasks(document);
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
