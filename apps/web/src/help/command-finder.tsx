import { Command as Finder } from 'cmdk';
import { type CommandHost, commands, keyLabel } from '@tazzel/editor';
import { Sheet } from '../ui/dialog.tsx';

export const CommandFinder = ({ open, host, onClose }: { open: boolean; host: CommandHost; onClose: () => void }) => (
  <Sheet open={open} title="Find a command" onClose={onClose}>
    <Finder label="Commands" loop>
      <Finder.Input autoFocus placeholder="Type what you want to do" className="field mb-2 h-8 w-full" />
      <Finder.List className="max-h-[50vh] overflow-auto">
        <Finder.Empty className="p-2 text-faint">No command is called that.</Finder.Empty>
        {commands
          .filter((command) => command.isEnabled(host))
          .map((command) => ({ command, reason: command.whyNot?.(host) ?? null }))
          .map(({ command, reason }) => (
            <Finder.Item
              key={command.id}
              value={`${command.label} ${command.group}`}
              disabled={reason !== null}
              onSelect={() => {
                onClose();
                command.run(host);
              }}
              className="flex items-center gap-3 px-2 py-1 data-[disabled=true]:text-faint data-[selected=true]:bg-accent data-[selected=true]:text-on-accent"
            >
              <span className="flex-1">
                {command.label}
                {reason && <span className="block text-[11px]">{reason}</span>}
              </span>
              <span className="text-[11px] opacity-75">{command.group}</span>
              <span className="figure w-24 text-right">{command.keys[0] ? keyLabel(command.keys[0]) : ''}</span>
            </Finder.Item>
          ))}
      </Finder.List>
    </Finder>
  </Sheet>
);
