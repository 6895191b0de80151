import { TEXT_LENGTH, type TextParam } from '@tazzel/core';
import { useState } from 'react';
import { Line } from '../ui/section.tsx';
import type { FieldProps } from './field.ts';

/** A line of words: kept when it is left or by Enter, given up by Escape. */
export function TextField({ param: { label, help }, value, onChange }: FieldProps<TextParam>) {
  const [draft, setDraft] = useState<string | null>(null);
  const finish = (keep: boolean) => {
    if (keep && draft !== null && draft.trim() !== value) onChange(draft.trim());
    setDraft(null);
  };
  return (
    <Line label={label}>
      <input
        aria-label={label}
        title={help}
        className="field w-full"
        value={draft ?? value}
        maxLength={TEXT_LENGTH}
        onChange={({ currentTarget }) => setDraft(currentTarget.value)}
        onBlur={() => finish(true)}
        onKeyDown={({ key }) => {
          if (key === 'Enter') finish(true);
          if (key === 'Escape') finish(false);
        }}
      />
    </Line>
  );
}
