import { Check as CheckIcon } from 'lucide-react';
import { Checkbox } from 'radix-ui';
import { useId } from 'react';

interface CheckProps {
  readonly label: string;
  readonly checked: boolean;
  readonly onChange: (checked: boolean) => void;
  readonly disabled?: boolean;
  /** The label is only spoken. */
  readonly bare?: boolean;
}

export function Check({ label, checked, onChange, disabled, bare = false }: CheckProps) {
  const id = useId();
  return (
    <span className="inline-flex items-center gap-1.5">
      <Checkbox.Root id={id} checked={checked} disabled={disabled} aria-label={bare ? label : undefined} title={bare ? label : undefined} onCheckedChange={(next) => onChange(next === true)} className="grid size-[15px] shrink-0 place-items-center border border-ink bg-sheet disabled:opacity-40 data-[state=checked]:bg-ink data-[state=checked]:text-sheet">
        <Checkbox.Indicator>
          <CheckIcon size={12} strokeWidth={3} aria-hidden />
        </Checkbox.Indicator>
      </Checkbox.Root>
      {!bare && <label htmlFor={id}>{label}</label>}
    </span>
  );
}
