import { roleLabel, type Source, usedSourceIds } from '@tazzel/core';
import { Plus } from 'lucide-react';
import { useActions, useSession, useWorkspace } from '../workspace/context.ts';
import { IconButton } from '../ui/button.tsx';
import { NameField } from '../ui/name-field.tsx';
import { type Column, Schedule } from './table.tsx';

export function ElementSchedule() {
  const { session } = useWorkspace();
  const sources = useSession((state) => state.document.sources);
  const actions = useActions();
  const selectedId = useSession((state) => state.selectedSourceId);
  const viewedId = useSession((state) => state.viewedSourceId);
  const columns: readonly Column<Source>[] = [
    {
      id: 'name',
      label: 'Element',
      width: '58%',
      sortBy: (source) => source.name,
      cell: (source) => (
        <span className="flex flex-col">
          <NameField label="Element" value={source.name} onSelect={() => actions.selectSource(source.id)} onCommit={(name) => actions.edit({ type: 'set-source', sourceId: source.id, patch: { name } })} className="max-w-full" />
          <span className="narrow truncate text-[11px] text-faint">{roleLabel(source.role)}</span>
        </span>
      ),
    },
    { id: 'encoding', label: 'Values', width: '26%', sortBy: (source) => source.encoding, cell: (source) => <span className="narrow text-[12px]">{source.encoding}</span> },
    {
      id: 'add',
      label: 'Add',
      width: '16%',
      sortBy: (source) => (usedSourceIds(session.getState().document).has(source.id) ? 0 : 1),
      cell: (source) => (
        <IconButton
          label={`Add ${source.name} as a layer`}
          onClick={(event) => {
            event.stopPropagation();
            actions.edit({ type: 'add-layer', layer: 'element', params: { source: source.id }, zone: source.encoding === 'linear' ? 'scene' : 'picture' });
          }}
        >
          <Plus size={13} aria-hidden />
        </IconButton>
      ),
    },
  ];
  return (
    <Schedule
      title="Elements"
      rows={sources}
      columns={columns}
      idOf={(source) => source.id}
      textOf={(source) => `${source.name} ${roleLabel(source.role)} ${source.encoding}`}
      selectedIds={selectedId === null ? [] : [selectedId]}
      markedId={viewedId}
      onSelect={actions.selectSource}
      empty="No element yet. Drop the files of a render onto the window: OpenEXR, PNG, TIFF, JPEG, Radiance HDR or WebP; several at once, or a folder."
    />
  );
}
