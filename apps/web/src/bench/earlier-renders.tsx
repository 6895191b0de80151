import { documentWith, type EarlierRender, type TazzelDocument } from '@tazzel/core';
import { Undo2, X } from 'lucide-react';
import { useCallback } from 'react';
import { questions } from '../answers.ts';
import { IconButton } from '../ui/button.tsx';
import { NameField } from '../ui/name-field.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, usePart, useWorkspace } from '../workspace/context.ts';

const when = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' });

/** What the present render is called when another one takes its place. */
export function presentRender({ renders, size }: TazzelDocument): { readonly name: string; readonly at: number } {
  const last = renders.reduce((most, { name }) => Math.max(most, Number(/^Render (\d+)/.exec(name)?.[1] ?? 0)), 0);
  return { name: `Render ${last + 1}, ${size.width} × ${size.height}`, at: Date.now() };
}

/** Renders that the document had, each under the build-up of today: to look at, and to bring back. */
export function EarlierRenders() {
  const { session } = useWorkspace();
  const renders = usePart((document) => document.renders);
  const actions = useActions();
  if (renders.length === 0) return null;
  return (
    <ul aria-label="Renders before" className="mt-2 border-t">
      {renders.toReversed().map((render) => (
        <li key={render.id} className="flex items-center gap-2 border-b py-1">
          <RenderPicture render={render} />
          <span className="min-w-0 flex-1">
            <NameField label="Render" value={render.name} onCommit={(name) => actions.edit({ type: 'rename-render', renderId: render.id, name })} className="max-w-full" />
            {render.at !== null && <span className="block truncate text-[11px] text-faint">until {when.format(render.at)}</span>}
          </span>
          <IconButton label={`Bring back ${render.name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'bring-render', renderId: render.id, keeps: presentRender(session.getState().document) })}>
            <Undo2 size={13} aria-hidden />
          </IconButton>
          <IconButton label={`Remove ${render.name}`} className="!size-[21px]" onClick={() => actions.edit({ type: 'remove-render', renderId: render.id })}>
            <X size={13} aria-hidden />
          </IconButton>
        </li>
      ))}
    </ul>
  );
}

function RenderPicture({ render }: { readonly render: EarlierRender }) {
  const question = useCallback((document: TazzelDocument) => questions.card(documentWith(document, render), {}), [render]);
  return <SmallPicture question={question} whenSeen className="shrink-0 border border-rule" style={{ height: 32, width: Math.min(64, Math.round((32 * render.size.width) / render.size.height)) }} />;
}
