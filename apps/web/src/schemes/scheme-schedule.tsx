import { underScheme } from '@tazzel/core';
import { LayoutGrid, Plus, X } from 'lucide-react';
import { useCallback, useState } from 'react';
import { questions } from '../answers.ts';
import { IconButton } from '../ui/button.tsx';
import { NameField } from '../ui/name-field.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, usePart } from '../workspace/context.ts';
import { type Column, Schedule } from '../schedules/table.tsx';
import { type NamedScheme, schemesShown } from './names.ts';
import { SchemeGrid } from './scheme-grid.tsx';

/** Variants of the picture, each with its picture: a click shows one, and what is changed then belongs to it. */
export function SchemeSchedule() {
  const schemes = usePart((document) => document.schemes);
  const actions = useActions();
  const [isGrid, setGrid] = useState(false);
  const columns: readonly Column<NamedScheme>[] = [
    {
      id: 'name',
      label: 'Scheme',
      width: '100%',
      sortBy: ({ name }) => name,
      cell: ({ id, name }) => (
        <span className="flex items-center gap-2">
          <SchemePicture schemeId={id} />
          {id === null ? (
            <span className="min-w-0 flex-1 truncate">{name}</span>
          ) : (
            <>
              <NameField label="Scheme" value={name} onSelect={() => actions.edit({ type: 'choose-scheme', schemeId: id })} onCommit={(next) => actions.edit({ type: 'rename-scheme', schemeId: id, name: next })} className="min-w-0 flex-1" />
              <IconButton label={`Remove the scheme ${name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'remove-scheme', schemeId: id })}>
                <X size={13} aria-hidden />
              </IconButton>
            </>
          )}
        </span>
      ),
    },
  ];
  return (
    <>
      <Schedule
        title="Schemes"
        grow={false}
        most="max-h-[40%] shrink-0"
        rows={schemesShown(schemes)}
        columns={columns}
        idOf={({ id }) => id ?? ''}
        textOf={({ name }) => name}
        selectedIds={schemes.list.length === 0 ? [] : [schemes.chosenId ?? '']}
        onSelect={(id) => actions.edit({ type: 'choose-scheme', schemeId: id || null })}
        action={
          <>
            <IconButton label="All schemes beside each other" disabled={schemes.list.length === 0} onClick={() => setGrid(true)}>
              <LayoutGrid size={13} aria-hidden />
            </IconButton>
            <IconButton label="New scheme" onClick={() => actions.edit({ type: 'add-scheme', name: `Scheme ${schemes.list.length + 1}` })}>
              <Plus size={13} aria-hidden />
            </IconButton>
          </>
        }
        empty="Variants: another sky, another facade. Add one, then change what is different in it."
      />
      <SchemeGrid open={isGrid} onClose={() => setGrid(false)} />
    </>
  );
}

function SchemePicture({ schemeId }: { schemeId: string | null }) {
  const ratio = usePart(({ size }) => size.width / size.height);
  const question = useCallback((document: Parameters<typeof questions.card>[0]) => questions.card(underScheme(document, schemeId), {}), [schemeId]);
  return <SmallPicture question={question} whenSeen className="shrink-0 border border-rule" style={{ height: 22, width: Math.min(44, Math.round(22 * ratio)) }} />;
}
