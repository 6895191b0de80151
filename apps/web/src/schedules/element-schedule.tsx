import { findSource, roleLabel, type Source, type TazzelDocument, usedSourceIds } from '@tazzel/core';
import { Plus } from 'lucide-react';
import { useCallback } from 'react';
import { questions } from '../answers.ts';
import { useActions, useSession, useWorkspace } from '../workspace/context.ts';
import { IconButton } from '../ui/button.tsx';
import { NameField } from '../ui/name-field.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { type Column, Schedule } from './table.tsx';

/** An element, small: numbers in the range that is found in them. */
function ElementPicture({ sourceId }: { sourceId: string }) {
  const question = useCallback(
    (document: TazzelDocument) => {
      const source = findSource(document, sourceId);
      return source && questions.element(document, source);
    },
    [sourceId],
  );
  return <SmallPicture whenSeen question={question} className="h-[26px] w-[39px] shrink-0 bg-black object-contain" />;
}

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
      width: '63%',
      sortBy: (source) => source.name,
      cell: (source) => (
        <span className="flex min-w-0 items-center gap-1.5">
          <ElementPicture sourceId={source.id} />
          <span className="flex min-w-0 flex-col">
            <NameField label="Element" value={source.name} onSelect={() => actions.selectSource(source.id)} onCommit={(name) => actions.edit({ type: 'set-source', sourceId: source.id, patch: { name } })} className="max-w-full" />
            <span className="narrow truncate text-[11px] text-faint">{roleLabel(source.role)}</span>
          </span>
        </span>
      ),
    },
    { id: 'encoding', label: 'Values', width: '20%', sortBy: (source) => source.encoding, cell: (source) => <span className="narrow text-[12px]">{source.encoding}</span> },
    {
      id: 'add',
      label: 'Add',
      width: '17%',
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
