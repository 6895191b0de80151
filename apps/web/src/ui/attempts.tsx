import type { LucideIcon } from 'lucide-react';
import { type ReactNode, useState } from 'react';
import { Button } from './button.tsx';

interface Attempt {
  readonly label: string;
  readonly icon: LucideIcon;
  /** What stood in the way, as a sentence; nothing if it is done. */
  readonly run: () => Promise<string | null>;
}

/** Buttons whose work takes a moment and may find nothing: what stood in the way is said below them. */
export function Attempts({ of, children }: { of: readonly Attempt[]; children?: ReactNode }) {
  const [problem, setProblem] = useState<string | null>(null);
  return (
    <div className="flex flex-wrap gap-1 pb-1">
      {of.map(({ label, icon: Icon, run }) => (
        <Button key={label} onClick={() => void run().then(setProblem, (error: Error) => setProblem(error.message))}>
          <Icon size={13} aria-hidden /> {label}
        </Button>
      ))}
      {children}
      {problem && (
        <p role="alert" className="w-full text-[12px] text-warn">
          {problem}
        </p>
      )}
    </div>
  );
}
