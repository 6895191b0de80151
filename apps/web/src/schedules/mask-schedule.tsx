import { type Mask, maskUses } from '@tazzel/core';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { NameField } from '../ui/name-field.tsx';
import { type Column, Schedule } from './table.tsx';

/** The shelf: named masks, and by how many each is used. */
export function MaskSchedule() {
  const document = useDocument();
  const actions = useActions();
  const subject = useSession((state) => state.maskSubject);
  const uses = maskUses(document);
  const usedBy = (mask: Mask) => uses.filter((use) => use.maskId === mask.id).length;
  const columns: readonly Column<Mask>[] = [
    {
      id: 'name',
      label: 'Mask',
      width: '72%',
      sortBy: (mask) => mask.name,
      cell: (mask) => <NameField label="Mask" value={mask.name} onSelect={() => actions.showMask(mask.id)} onCommit={(name) => actions.edit({ type: 'rename-mask', maskId: mask.id, name })} className="max-w-full" />,
    },
    { id: 'uses', label: 'Used by', width: '28%', align: 'right', sortBy: usedBy, cell: (mask) => String(usedBy(mask)) },
  ];
  return (
    <Schedule
      title="Masks"
      grow={false}
      rows={document.masks}
      columns={columns}
      idOf={(mask) => mask.id}
      textOf={(mask) => mask.name}
      selectedId={subject.kind === 'mask' ? subject.maskId : null}
      onSelect={actions.showMask}
      empty="Correct a material in Surfaces, and its mask stands here for others to share."
    />
  );
}
