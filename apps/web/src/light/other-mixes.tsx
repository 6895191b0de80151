import { useQuery } from '@tanstack/react-query';
import { lightsFile, mixFor, type NamedMix, readDocument, readLights } from '@tazzel/core';
import { showNotes } from '../notices.tsx';
import { readRecord } from '../storage/rows.ts';
import { documentStore } from '../storage/database.ts';
import { Button } from '../ui/button.tsx';
import { Sheet } from '../ui/dialog.tsx';
import { useActions, usePart, useWorkspace } from '../workspace/context.ts';

interface OtherMixes {
  readonly id: string;
  readonly name: string;
  readonly mixes: readonly NamedMix[];
}

/** Documents of this browser that have kept mixes, as they are stored; those that cannot be read have none. */
async function othersWithMixes(documentId: string): Promise<readonly OtherMixes[]> {
  const found: OtherMixes[] = [];
  for (const id of await documentStore.keys()) {
    if (id === documentId) continue;
    try {
      const { document } = readDocument((await readRecord(id))?.document);
      // As through a file: groups are known by their names there and here.
      const { scenarios } = readLights(lightsFile(document, document.light.scenarios));
      if (scenarios.length > 0) found.push({ id, name: document.name, mixes: scenarios });
    } catch {
      // It is listed, with what is wrong with it, on the start page.
    }
  }
  return found.sort((a, b) => a.name.localeCompare(b.name));
}

/** Light mixes of another camera of the same project, taken over in one step: each group by its name. */
export function OtherMixes({ open, onClose }: { readonly open: boolean; readonly onClose: () => void }) {
  const { session } = useWorkspace();
  const documentId = usePart(({ id }) => id);
  const actions = useActions();
  const { data: others } = useQuery({ queryKey: ['mixes of others', documentId], queryFn: () => othersWithMixes(documentId), enabled: open, staleTime: 0, gcTime: 0 });
  const take = ({ mixes }: OtherMixes) => {
    const fitted = mixes.map((mix) => ({ name: mix.name, ...mixFor(session.getState().document, mix) }));
    if (!actions.edit({ type: 'add-scenarios', scenarios: fitted.map((each) => ({ name: each.name, mix: each.mix })) })) return;
    showNotes('About these mixes', fitted.flatMap(({ missing }) => missing));
    onClose();
  };
  return (
    <Sheet open={open} title="Mixes of another document" onClose={onClose} description="Kept mixes of the other cameras: each light group takes what the one of its name has there.">
      {others?.length === 0 && <p>No other document of this browser has a kept mix. Keep some in one, or load them from a file.</p>}
      <ul>
        {others?.map((other) => (
          <li key={other.id} className="flex items-center gap-2 border-b py-1.5">
            <span className="min-w-0 flex-1">
              <span className="block truncate font-medium">{other.name}</span>
              <span className="block truncate text-[12px] text-faint">{other.mixes.map((mix) => mix.name).join(', ')}</span>
            </span>
            <Button look="main" onClick={() => take(other)}>
              Take them
            </Button>
          </li>
        ))}
      </ul>
    </Sheet>
  );
}
