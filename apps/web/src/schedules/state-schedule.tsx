import { documentIn, type NamedState, type TazzelDocument } from '@tazzel/core';
import { Plus, Undo2, X } from 'lucide-react';
import { useCallback } from 'react';
import { questions } from '../answers.ts';
import { IconButton } from '../ui/button.tsx';
import { NameField } from '../ui/name-field.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, usePart, useSession } from '../workspace/context.ts';
import { type Column, Schedule } from './table.tsx';

/** How the picture was finished at other times, each with its picture: to return to, or to compare with. */
export function StateSchedule() {
  const states = usePart((document) => document.states);
  const actions = useActions();
  const compareWith = useSession((state) => state.compareWith);
  const isCompared = useSession((state) => state.compare !== 'off');
  const columns: readonly Column<NamedState>[] = [
    {
      id: 'name',
      label: 'State',
      width: '100%',
      sortBy: (state) => state.name,
      cell: (state) => (
        <span className="flex items-center gap-2">
          <StatePicture stateId={state.id} />
          <NameField label="State" value={state.name} onSelect={() => actions.set({ compareWith: { kind: 'state', stateId: state.id } })} onCommit={(name) => actions.edit({ type: 'rename-state', stateId: state.id, name })} className="min-w-0 flex-1" />
          <IconButton label={`Return to ${state.name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'return-to-state', stateId: state.id })}>
            <Undo2 size={13} aria-hidden />
          </IconButton>
          <IconButton label={`Remove ${state.name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'remove-state', stateId: state.id })}>
            <X size={13} aria-hidden />
          </IconButton>
        </span>
      ),
    },
  ];
  return (
    <Schedule
      title="States"
      grow={false}
      rows={states}
      columns={columns}
      idOf={(state) => state.id}
      textOf={(state) => state.name}
      selectedIds={isCompared && compareWith.kind === 'state' ? [compareWith.stateId] : []}
      onSelect={(stateId) => actions.set({ compareWith: { kind: 'state', stateId } })}
      action={
        <IconButton label="Keep this state" hint="N" onClick={() => actions.edit({ type: 'keep-state', name: `State ${states.length + 1}` })}>
          <Plus size={13} aria-hidden />
        </IconButton>
      }
      empty="The picture at other times, to return to."
    />
  );
}

function StatePicture({ stateId }: { stateId: string }) {
  const ratio = usePart(({ size }) => size.width / size.height);
  const question = useCallback(
    (document: TazzelDocument) => {
      const state = document.states.find(({ id }) => id === stateId);
      return state ? questions.card(documentIn(document, state), {}) : null;
    },
    [stateId],
  );
  return <SmallPicture question={question} whenSeen className="shrink-0 border border-rule" style={{ height: 22, width: Math.min(44, Math.round(22 * ratio)) }} />;
}
