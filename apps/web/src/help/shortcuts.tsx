import { commands, keyLabel } from '@tazzel/editor';
import { Sheet } from '../ui/dialog.tsx';

const groups = [...new Set(commands.map(({ group }) => group))];

/** All keys, made from the table of commands. */
export const Shortcuts = ({ open, onClose }: { open: boolean; onClose: () => void }) => (
  <Sheet open={open} title="Keyboard" onClose={onClose} wide>
    <div className="columns-2 gap-8">
      {groups.map((group) => {
        const rows = commands.filter((command) => command.group === group && command.keys.length > 0);
        if (rows.length === 0) return null;
        return (
          <section key={group} className="mb-4 break-inside-avoid">
            <h3 className="lettering border-b border-rule pb-0.5 text-faint">{group}</h3>
            <dl>
              {rows.map(({ id, label, keys }) => (
                <div key={id} className="flex justify-between gap-3 border-b py-0.5">
                  <dt>{label}</dt>
                  <dd className="figure shrink-0">{keys.map(keyLabel).join(', ')}</dd>
                </div>
              ))}
            </dl>
          </section>
        );
      })}
    </div>
    <p className="text-faint">In number fields the arrow keys nudge the value, with Shift ten times as far, with Alt a tenth. A double click on the name resets it. On the picture the wheel zooms at the pointer, dragging moves it.</p>
  </Sheet>
);
