import { schemeOf } from '@tazzel/core';
import { ChevronDown } from 'lucide-react';
import { Menu } from '../ui/menu.tsx';
import { useActions, usePart } from '../workspace/context.ts';
import { schemesShown, WITHOUT } from './names.ts';

/** Which scheme is shown, and what is changed belongs to; seen in every stage, so that nobody changes the wrong one. Nothing before there are schemes. */
export function SchemeMenu() {
  const schemes = usePart((document) => document.schemes);
  const actions = useActions();
  if (schemes.list.length === 0) return null;
  const shown = schemeOf({ schemes }, schemes.chosenId)?.name ?? WITHOUT;
  return (
    <Menu
      trigger={
        <button type="button" aria-label={`Scheme: ${shown}`} title={schemes.chosenId === null ? 'What is changed is changed in all schemes' : `What is changed belongs to the scheme “${shown}”`} className={`flex items-center gap-1.5 border-r px-3 hover:bg-sheet ${schemes.chosenId === null ? 'text-faint' : 'bg-sheet font-medium shadow-[inset_0_-2px_0_var(--accent)]'}`}>
          <span className="max-w-[150px] truncate">{shown}</span>
          <ChevronDown size={13} aria-hidden />
        </button>
      }
      items={() => [
        ...schemesShown(schemes).map(({ id, name }) => ({ label: name, hint: id === schemes.chosenId ? 'shown' : undefined, onSelect: () => void actions.edit({ type: 'choose-scheme', schemeId: id }) })),
        null,
        { label: 'New scheme', hint: 'of what is shown', onSelect: () => void actions.edit({ type: 'add-scheme', name: `Scheme ${schemes.list.length + 1}` }) },
      ]}
    />
  );
}
