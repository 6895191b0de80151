import { type Command, type CommandHost, commands, keyLabel, type StageId } from '@tazzel/editor';
import { useMemo } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { useNavigate, useParams } from 'react-router';
import { useSession, useWorkspace } from './context.ts';
import { foldPanel, setAlone } from './layout.ts';

type FrameActions = Pick<CommandHost, 'addFiles' | 'showShortcuts' | 'findCommand' | 'renameSelected'>;

export function useCommandHost(stage: StageId, actions: FrameActions): CommandHost {
  const { session, viewport } = useWorkspace();
  const navigate = useNavigate();
  const { id } = useParams();
  return {
    ...actions,
    session,
    stage,
    goToStage: (next) => navigate(`/document/${id}/${next}`),
    fit: () => viewport.fit(),
    fullSize: () => viewport.zoomTo(1),
    zoomBy: (factor) => viewport.zoomAt(factor),
    closeDocument: () => navigate('/'),
    foldPanel: (panel) => foldPanel(panel),
    pictureAlone: () => setAlone(),
  };
}

/** Letters are taken by what they write, other keys by where they lie, so that both work on every keyboard. */
const isLetter = (keys: string) => /(^|\+)[a-z]$/.test(keys);

export function useHotkeysOf(host: CommandHost, enabled: boolean): void {
  const byKeys = useMemo(() => new Map(commands.flatMap((command) => command.keys.map((keys) => [keys, command] as const))), []);
  const keys = [...byKeys.keys()];
  const run = (event: KeyboardEvent, pressed: string) => {
    const command = byKeys.get(pressed);
    // An open menu or dialog has the keyboard for itself; Enter and Space on a control stay with it.
    if (!command || document.querySelector('[role="menu"],[role="listbox"],[role="dialog"]')) return;
    if (!command.isEnabled(host)) return;
    event.preventDefault();
    command.run(host);
  };
  const options = { enabled, preventDefault: false, enableOnFormTags: ['slider' as const], delimiter: '|' };
  useHotkeys(keys.filter(isLetter).join('|'), (event, { hotkey }) => run(event, hotkey), { ...options, useKey: true });
  useHotkeys(keys.filter((key) => !isLetter(key)).join('|'), (event, { hotkey }) => run(event, hotkey), options);
}

export const commandById = (id: string): Command => {
  const command = commands.find((candidate) => candidate.id === id);
  if (!command) throw new Error(`There is no command “${id}”.`);
  return command;
};

/** Everything a button needs of a command: name, keys, whether it applies now, what it does. */
export function useCommandButton(id: string, host: CommandHost) {
  const command = commandById(id);
  // Only the answer is watched, so a drag does not draw every button anew.
  const isEnabled = useSession(() => command.isEnabled(host));
  return { label: command.label, hint: command.keys[0] ? keyLabel(command.keys[0]) : undefined, disabled: !isEnabled, onClick: () => command.run(host) };
}
