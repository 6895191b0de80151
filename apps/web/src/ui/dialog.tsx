import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';

interface SheetProps {
  readonly open: boolean;
  readonly title: string;
  readonly description?: string;
  readonly onClose: () => void;
  readonly children: ReactNode;
  readonly wide?: boolean | 'whole';
}

const WIDTHS: Readonly<Record<string, string>> = { false: 'top-[10vh] max-h-[80vh] w-[min(480px,94vw)]', true: 'top-[10vh] max-h-[80vh] w-[min(860px,94vw)]', whole: 'top-[3vh] max-h-[94vh] w-[94vw]' };

/** A sheet over the work, with a title line. Escape and a click beside it close it. */
export const Sheet = ({ open, title, description, onClose, children, wide = false }: SheetProps) => (
  <Dialog.Root open={open} onOpenChange={(next) => next || onClose()}>
    <Dialog.Portal>
      <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
      <Dialog.Content
        aria-describedby={description ? undefined : ''}
        className={`fixed left-1/2 z-50 flex -translate-x-1/2 flex-col border border-ink bg-panel ${WIDTHS[String(wide)]}`}
      >
        <div className="flex items-center justify-between border-b border-ink px-3 py-1.5">
          <Dialog.Title className="lettering">{title}</Dialog.Title>
          {/* No tooltip here: it would open with the sheet and take the first Escape for itself. */}
          <Dialog.Close aria-label="Close" className="grid size-6 place-items-center border border-transparent hover:border-rule">
            <X size={14} aria-hidden />
          </Dialog.Close>
        </div>
        {description && <Dialog.Description className="px-3 pt-2 text-faint">{description}</Dialog.Description>}
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable with the keyboard */}
        <section aria-label={title} tabIndex={0} className="min-h-0 overflow-auto p-3 -outline-offset-2">
          {children}
        </section>
      </Dialog.Content>
    </Dialog.Portal>
  </Dialog.Root>
);
