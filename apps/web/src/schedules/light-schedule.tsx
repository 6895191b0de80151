import { findSource, groupName, groupsOf, type Source, type TazzelDocument } from '@tazzel/core';
import { useCallback } from 'react';
import { questions } from '../answers.ts';
import { useLightFigures } from '../light/use-lights.ts';
import { NameField } from '../ui/name-field.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';
import { type Column, Schedule } from './table.tsx';

function LightPicture({ sourceId }: { sourceId: string }) {
  const question = useCallback(
    (document: TazzelDocument) => {
      const source = findSource(document, sourceId);
      return source && questions.element(document, source);
    },
    [sourceId],
  );
  return <SmallPicture whenSeen question={question} className="h-[22px] w-[33px] shrink-0 bg-black object-contain" />;
}

const percent = (share: number | undefined) => (share === undefined ? '–' : (share * 100).toFixed(share < 0.1 ? 1 : 0));

/** The light groups as a table: what each gives to the picture and how much grain it brings. */
export function LightSchedule() {
  const document = useDocument();
  const actions = useActions();
  const figures = useLightFigures();
  const selectedId = useSession(({ focus }) => (focus.kind === 'light' ? focus.lightId : null));
  const columns: readonly Column<Source>[] = [
    {
      id: 'name',
      label: 'Light group',
      width: '54%',
      sortBy: groupName,
      cell: (source) => (
        <span className="flex min-w-0 items-center gap-1.5">
          <LightPicture sourceId={source.id} />
          <NameField label="Light group" value={groupName(source)} onSelect={() => actions.selectLight(source.id)} onCommit={(name) => actions.edit({ type: 'set-source', sourceId: source.id, patch: { name } })} className="min-w-0 flex-1" />
        </span>
      ),
    },
    { id: 'share', label: 'Light %', width: '22%', align: 'right', sortBy: ({ id }) => figures?.of.get(id)?.share ?? 0, cell: ({ id }) => <span className="figure">{percent(figures?.of.get(id)?.share)}</span> },
    { id: 'noise', label: 'Grain %', width: '24%', align: 'right', sortBy: ({ id }) => figures?.of.get(id)?.noise ?? 0, cell: ({ id }) => <span className="figure">{percent(figures?.of.get(id)?.noise)}</span> },
  ];
  return <Schedule title="Lights" grow={false} rows={groupsOf(document)} columns={columns} idOf={(source) => source.id} textOf={groupName} selectedIds={selectedId === null ? [] : [selectedId]} onSelect={(id) => actions.selectLight(id)} empty="No light groups yet. Drop those of a render onto the window." />;
}
