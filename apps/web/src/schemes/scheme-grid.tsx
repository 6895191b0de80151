import { underScheme } from '@tazzel/core';
import { useCallback } from 'react';
import { questions } from '../answers.ts';
import { Sheet } from '../ui/dialog.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, usePart } from '../workspace/context.ts';
import { schemesShown } from './names.ts';

/** All schemes beside each other; a click shows one. */
export function SchemeGrid({ open, onClose }: { open: boolean; onClose: () => void }) {
  const schemes = usePart((document) => document.schemes);
  const actions = useActions();
  const shown = schemesShown(schemes);
  const across = Math.ceil(Math.sqrt(shown.length));
  const down = Math.max(1, Math.ceil(shown.length / across));
  return (
    <Sheet open={open} title="Schemes" wide="whole" onClose={onClose}>
      <ul className="grid gap-3" style={{ gridTemplateColumns: `repeat(${across}, minmax(0, 1fr))` }}>
        {shown.map(({ id, name }) => (
          <li key={id ?? ''}>
            <button
              type="button"
              aria-current={id === schemes.chosenId}
              className="block w-full border border-rule text-left hover:border-ink aria-[current=true]:border-ink aria-[current=true]:shadow-[inset_0_-3px_0_var(--accent)]"
              onClick={() => {
                actions.edit({ type: 'choose-scheme', schemeId: id });
                onClose();
              }}
            >
              <Large schemeId={id} height={`max(120px, calc((94vh - 66px) / ${down} - 44px))`} />
              <span className="block px-2 py-1 font-medium">{name}</span>
            </button>
          </li>
        ))}
      </ul>
    </Sheet>
  );
}

function Large({ schemeId, height }: { schemeId: string | null; height: string }) {
  const question = useCallback((document: Parameters<typeof questions.beside>[0]) => questions.beside(underScheme(document, schemeId)), [schemeId]);
  return <SmallPicture question={question} whenSeen className="block w-full bg-sheet object-contain" style={{ height }} />;
}
