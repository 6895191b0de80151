import { type CommandHost, keyLabel, stages } from '@tazzel/editor';
import { Plus, Redo2, TextSearch, Undo2 } from 'lucide-react';
import { Link, NavLink, useParams } from 'react-router';
import { NotesButton } from '../notices.tsx';
import { SchemeMenu } from '../schemes/scheme-menu.tsx';
import { IconButton } from '../ui/button.tsx';
import { NameField } from '../ui/name-field.tsx';
import { ThemeButton } from '../ui/theme-button.tsx';
import { commandById, useCommandButton } from './commands.tsx';
import { useActions, usePart } from './context.ts';

const keysOf = (stage: string) => keyLabel(commandById(`stage-${stage}`).keys[0]);

export function StageBar({ host }: { host: CommandHost }) {
  const { id } = useParams();
  const name = usePart((document) => document.name);
  const actions = useActions();
  const undo = useCommandButton('undo', host);
  const redo = useCommandButton('redo', host);
  const add = useCommandButton('add-files', host);
  const find = useCommandButton('find-command', host);
  return (
    <header className="flex h-[34px] shrink-0 items-stretch border-b border-ink">
      <div className="flex w-[248px] items-center gap-2 border-r px-3">
        <Link to="/" className="font-semibold" style={{ fontStretch: '88%' }} title="All documents">
          Tazzel
        </Link>
        <span aria-hidden className="text-rule">
          /
        </span>
        <NameField label="Document" value={name} onCommit={(name) => actions.edit({ type: 'rename-document', name })} className="flex-1" />
      </div>
      <SchemeMenu />
      <nav aria-label="Stages" className="flex flex-1 items-stretch">
        {stages.map((stage) => (
          <NavLink key={stage.id} to={`/document/${id}/${stage.id}`} replace title={keysOf(stage.id)} className="lettering flex items-center border-r px-4 text-faint hover:text-ink aria-[current=page]:bg-sheet aria-[current=page]:text-ink aria-[current=page]:shadow-[inset_0_2px_0_var(--accent)]">
            {stage.label}
          </NavLink>
        ))}
      </nav>
      <div className="flex w-[272px] items-center justify-end gap-1 px-2">
        <NotesButton />
        <IconButton {...add}>
          <Plus size={15} aria-hidden />
        </IconButton>
        <IconButton {...undo}>
          <Undo2 size={15} aria-hidden />
        </IconButton>
        <IconButton {...redo}>
          <Redo2 size={15} aria-hidden />
        </IconButton>
        <IconButton {...find}>
          <TextSearch size={15} aria-hidden />
        </IconButton>
        <ThemeButton />
      </div>
    </header>
  );
}
