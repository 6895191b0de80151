import { applyLook, CoreError, findLayer, type Look, lookOf } from '@tazzel/core';
import { safeName } from '@tazzel/formats';
import { Check, Download, FolderOpen, Plus, X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { chosen } from '../files.ts';
import { download } from '../ui/download.ts';
import { showNotes } from '../notices.tsx';
import { keepLooks, lookFile, looks, readLookFile } from '../storage/library.ts';
import { IconButton } from '../ui/button.tsx';
import { Menu } from '../ui/menu.tsx';
import { NameField } from '../ui/name-field.tsx';
import { useActions, useWorkspace } from '../workspace/context.ts';
import { type Column, Schedule } from './table.tsx';

/** Corrections kept for the next camera or document, and exported as files. They belong to the artist, not to a document. */
export function LookSchedule() {
  const { session } = useWorkspace();
  const actions = useActions();
  const input = useRef<HTMLInputElement>(null);
  const [own, setOwn] = useState<readonly Look[]>([]);
  useEffect(() => void looks().then(setOwn), []);
  const keep = (list: readonly Look[]) => {
    setOwn(list);
    void keepLooks(list);
  };
  const save = (layerId: string | null) => {
    const { document } = session.getState();
    const name = layerId === null ? document.name : (findLayer(document, layerId)?.layer.name ?? 'Look');
    const number = own.filter((look) => look.name.startsWith(name)).length;
    try {
      keep([...own, lookOf(document, number === 0 ? name : `${name} ${number + 1}`, layerId)]);
    } catch (error) {
      if (!(error instanceof CoreError)) throw error;
      showNotes('Nothing was kept', [error.message]);
    }
  };
  const load = async (file: File | undefined) => {
    if (!file) return;
    try {
      const { look, problems } = readLookFile(await file.text());
      keep([...own, look]);
      showNotes('About this look', problems);
    } catch (error) {
      showNotes('The look could not be read', [`${file.name}: ${(error as Error).message}`]);
    }
  };
  const apply = (look: Look) => {
    const { edit, missing } = applyLook(session.getState().document, look);
    if (actions.edit(edit)) showNotes('Applied, with gaps', missing);
  };
  const at = (look: Look) => own.indexOf(look);
  const columns: readonly Column<Look>[] = [
    {
      id: 'name',
      label: 'Look',
      width: '100%',
      sortBy: (look) => look.name,
      cell: (look) => (
        <span className="flex items-center gap-1">
          <NameField label="Look" value={look.name} onCommit={(name) => keep(own.with(at(look), { ...look, name }))} className="min-w-0 flex-1" />
          <IconButton label={`Apply ${look.name}`} className="!size-[21px]" onClick={() => apply(look)}>
            <Check size={13} aria-hidden />
          </IconButton>
          <IconButton label={`Save ${look.name} as a file`} className="!size-[21px]" onClick={() => download(`${safeName(look.name)}.look.json`, [lookFile(look)], 'application/json')}>
            <Download size={13} aria-hidden />
          </IconButton>
          <IconButton label={`Delete ${look.name}`} className="!size-[21px]" onClick={() => keep(own.filter((other) => other !== look))}>
            <X size={13} aria-hidden />
          </IconButton>
        </span>
      ),
    },
  ];
  return (
    <>
      <Schedule
        title="Looks"
        grow={false}
        rows={own}
        columns={columns}
        idOf={(look) => String(at(look))}
        textOf={(look) => look.name}
        selectedIds={[]}
        onSelect={() => undefined}
        action={
          <>
            <IconButton label="Load a look from a file" onClick={() => input.current?.click()}>
              <FolderOpen size={13} aria-hidden />
            </IconButton>
            <Menu
              trigger={
                <IconButton label="Keep corrections as a look">
                  <Plus size={13} aria-hidden />
                </IconButton>
              }
              items={() => {
                const { document, selectedLayerId } = session.getState();
                const layer = selectedLayerId === null ? null : findLayer(document, selectedLayerId)?.layer;
                return [
                  { label: 'All corrections and the tone line', onSelect: () => save(null) },
                  { label: layer ? `Only “${layer.name}”` : 'Only the selected layer', disabled: !layer, onSelect: () => save(selectedLayerId) },
                ];
              }}
            />
          </>
        }
        empty="Corrections kept for the next camera."
      />
      <input ref={input} type="file" hidden aria-label="Look file" accept=".json" onChange={(event) => void load(chosen(event.currentTarget)[0])} />
    </>
  );
}
