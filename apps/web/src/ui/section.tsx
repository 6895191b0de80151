import { ChevronRight } from 'lucide-react';
import type { ReactNode } from 'react';

/** A titled part of the bench. */
export const Section = ({ title, action, children }: { title: string; action?: ReactNode; children: ReactNode }) => (
  <section aria-label={title} className="border-b px-3 pt-2 pb-3">
    <div className="mb-1 flex h-6 items-center justify-between gap-2">
      <h3 className="lettering text-[10px] text-faint">{title}</h3>
      {action}
    </div>
    {children}
  </section>
);

/** What is seldom needed, folded away. */
export const Fold = ({ title, children }: { title: string; children: ReactNode }) => (
  <details className="group">
    <summary className="flex h-6 cursor-pointer list-none items-center gap-1 text-faint hover:text-ink">
      <ChevronRight size={12} aria-hidden className="group-open:rotate-90" />
      {title}
    </summary>
    <div className="pl-3">{children}</div>
  </details>
);

/** A labelled line of a form. */
export const Line = ({ label, children }: { label: string; children: ReactNode }) => (
  <div className="grid grid-cols-[72px_minmax(0,1fr)] items-center gap-2 py-0.5">
    <span className="narrow">{label}</span>
    {children}
  </div>
);

/** A fact that cannot be changed. */
export const Fact = ({ label, children }: { label: string; children: ReactNode }) => (
  <div className="grid grid-cols-[72px_minmax(0,1fr)] gap-2 py-px text-[12px]">
    <dt className="narrow text-faint">{label}</dt>
    <dd className="min-w-0 break-words">{children}</dd>
  </div>
);
