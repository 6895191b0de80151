import { type RoleId, type RoleRule, readRulesFile, roleLabel, roles, rulesFile, withRule } from '@tazzel/core';
import { X } from 'lucide-react';
import { useEffect, useState } from 'react';
import { download } from '../ui/download.ts';
import { showReport } from '../notices.tsx';
import { keepRoleRules, roleRules } from '../storage/library.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Sheet } from '../ui/dialog.tsx';

const options = roles.map(({ id, label }) => ({ value: id, label }));

/** The rules that corrected roles have left behind. */
export function RulesSheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [rules, setRules] = useState<readonly RoleRule[]>([]);
  useEffect(() => {
    if (open) void roleRules().then(setRules);
  }, [open]);
  const keep = (next: readonly RoleRule[]) => {
    setRules(next);
    void keepRoleRules(next);
  };
  const load = async (file: File) => {
    try {
      keep(readRulesFile(await file.text()).reduce(withRule, [...rules]));
    } catch (error) {
      showReport('The rules could not be read', [`${file.name}: ${(error as Error).message}`]);
    }
  };
  return (
    <Sheet open={open} title="Rules for roles" description="An element whose name has all of the words gets the role. Rules come before every guess." onClose={onClose}>
      {rules.length === 0 && <p>No rules yet. Correct the role of an element, and it is remembered here.</p>}
      <ul>
        {rules.map((rule) => (
          <li key={rule.words.join()} className="grid grid-cols-[minmax(0,1fr)_160px_24px] items-center gap-2 border-b py-1">
            <span className="figure truncate">{rule.words.join(' ')}</span>
            <Choice label={`Role for ${rule.words.join(' ')}`} value={rule.role} options={options} onChange={(role: RoleId) => keep(rules.map((other) => (other === rule ? { ...rule, role } : other)))} />
            <IconButton label={`Delete the rule for ${rule.words.join(' ')}: ${roleLabel(rule.role)}`} onClick={() => keep(rules.filter((other) => other !== rule))}>
              <X size={13} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
      <div className="mt-3 flex gap-1.5">
        <Button disabled={rules.length === 0} onClick={() => download('role-rules.json', [rulesFile(rules)], 'application/json')}>
          Save as a file
        </Button>
        <FileButton text="Load from a file …" label="File of rules" accept=".json" onFiles={([file]) => void load(file)} />
      </div>
    </Sheet>
  );
}
