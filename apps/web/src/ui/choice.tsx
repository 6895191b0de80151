import { Check, ChevronDown } from 'lucide-react';
import { Select } from 'radix-ui';
import { useState } from 'react';

export interface ChoiceOption<T extends string> {
  readonly value: T;
  readonly label: string;
  readonly hint?: string;
  readonly group?: string;
}

interface ChoiceProps<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly options: readonly ChoiceOption<T>[];
  readonly onChange: (value: T) => void;
  readonly disabled?: boolean;
  readonly className?: string;
}

/** One of several values. Options may stand in groups and carry a line of explanation. */
export function Choice<T extends string>({ label, value, options, onChange, disabled, className = '' }: ChoiceProps<T>) {
  const groups = [...new Set(options.map((option) => option.group ?? ''))];
  // The list is made when somebody comes near it: benches have many, and lists of modes and roles are long.
  const [isNear, setNear] = useState(false);
  const approach = () => setNear(true);
  return (
    <Select.Root value={value} onValueChange={(next) => onChange(next as T)} disabled={disabled}>
      <Select.Trigger aria-label={label} onFocus={approach} onPointerEnter={approach} onPointerDownCapture={approach} className={`field flex min-w-0 items-center justify-between gap-1 disabled:opacity-50 ${className}`}>
        <span className="truncate">
          <Select.Value>{options.find((option) => option.value === value)?.label}</Select.Value>
        </span>
        <ChevronDown size={13} aria-hidden className="shrink-0" />
      </Select.Trigger>
      {isNear && (
        <Select.Portal>
          <Select.Content position="popper" sideOffset={2} collisionPadding={8} className="z-50 max-h-(--radix-select-content-available-height) border border-ink bg-sheet">
            <Select.Viewport>
              {groups.map((group) => (
                <Select.Group key={group}>
                  {group !== '' && <Select.Label className="lettering border-b px-2 pt-1.5 pb-0.5 text-faint">{group}</Select.Label>}
                  {options
                    .filter((option) => (option.group ?? '') === group)
                    .map((option) => (
                      <Select.Item key={option.value} value={option.value} title={option.hint} className="flex items-center gap-2 py-0.5 pr-3 pl-1.5 outline-none data-[highlighted]:bg-accent data-[highlighted]:text-on-accent">
                        <span className="w-4">
                          <Select.ItemIndicator>
                            <Check size={13} aria-hidden />
                          </Select.ItemIndicator>
                        </span>
                        <Select.ItemText>{option.label}</Select.ItemText>
                        {option.hint && <span className="ml-auto w-80 pl-4 text-right text-[11px] leading-tight opacity-75">{option.hint}</span>}
                      </Select.Item>
                    ))}
                </Select.Group>
              ))}
            </Select.Viewport>
          </Select.Content>
        </Select.Portal>
      )}
    </Select.Root>
  );
}
