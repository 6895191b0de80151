import { useEffect, useRef, useState } from 'react';

interface NameFieldProps {
  readonly label: string;
  readonly value: string;
  readonly onCommit: (name: string) => void;
  /** A plain press, where the name also stands for its row. */
  readonly onSelect?: () => void;
  readonly className?: string;
  /** A change of this number starts editing from outside, in the field that is the target then. */
  readonly editSignal?: number;
  readonly isEditTarget?: boolean;
}

/** A name that is plain text until it is edited: by double click, F2, or Enter where that does nothing else. Enter keeps, Escape gives up. */
export function NameField({ label, value, onCommit, onSelect, className = '', editSignal = 0, isEditTarget = false }: NameFieldProps) {
  const [draft, setDraft] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const seen = useRef(editSignal);
  useEffect(() => {
    if (editSignal === seen.current) return;
    seen.current = editSignal;
    if (isEditTarget) setDraft(value);
  }, [editSignal, isEditTarget, value]);
  const editing = draft !== null;
  useEffect(() => {
    if (editing) input.current?.select();
  }, [editing]);
  if (draft === null) {
    return (
      <button
        type="button"
        aria-label={`${label}: ${value}. ${onSelect ? 'F2' : 'Enter'} renames.`}
        className={`min-w-0 truncate text-left ${className}`}
        title={value}
        onClick={onSelect}
        onDoubleClick={() => setDraft(value)}
        onKeyDown={(event) => {
          if (event.key !== 'F2' && (event.key !== 'Enter' || onSelect)) return;
          event.preventDefault();
          event.stopPropagation();
          setDraft(value);
        }}
      >
        {value}
      </button>
    );
  }
  const finish = (keep: boolean) => {
    const name = draft.trim();
    setDraft(null);
    if (keep && name !== '' && name !== value) onCommit(name);
  };
  return (
    <input
      ref={input}
      aria-label={label}
      className={`field min-w-0 ${className}`}
      value={draft}
      maxLength={200}
      onChange={(event) => setDraft(event.currentTarget.value)}
      onBlur={() => finish(true)}
      onPointerDown={(event) => event.stopPropagation()}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') finish(true);
        if (event.key === 'Escape') finish(false);
      }}
    />
  );
}
