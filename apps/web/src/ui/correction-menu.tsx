/** Corrections by groups, with a field to find them; what cannot be added says why. */
import { CORRECTION_GROUPS, type Correction, correctionById, corrections, type Edit, isCorrectionId, whyNot } from '@tazzel/core';
import { Command as Finder } from 'cmdk';
import { Popover } from 'radix-ui';
import { type ReactNode, useEffect, useState } from 'react';
import { useDocument } from '../workspace/context.ts';
import { keepSetting, setting } from '../storage/database.ts';

interface CorrectionMenuProps {
  readonly trigger: ReactNode;
  /** What adding it would be. */
  readonly edit: (correction: Correction) => Edit;
  /** Where it would go, if that is not where one would think. */
  readonly hint?: (correction: Correction) => string | undefined;
  readonly onAdd: (edit: Edit) => void;
}

const MOST_RECENT = 3;

export function CorrectionMenu({ trigger, edit, hint, onAdd }: CorrectionMenuProps) {
  const [isOpen, setOpen] = useState(false);
  return (
    <Popover.Root open={isOpen} onOpenChange={setOpen}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content sideOffset={2} collisionPadding={8} align="end" aria-label="Corrections" className="z-50 flex max-h-(--radix-popover-content-available-height) w-72 flex-col border border-ink bg-sheet">
          <Corrections
            edit={edit}
            hint={hint}
            onAdd={(chosen) => {
              setOpen(false);
              onAdd(chosen);
            }}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Corrections({ edit, hint, onAdd }: Omit<CorrectionMenuProps, 'trigger'>) {
  const document = useDocument();
  const [recent, setRecent] = useState<readonly string[]>([]);
  useEffect(() => void setting<readonly string[]>('recent-corrections', []).then(setRecent), []);
  const add = (correction: Correction) => {
    keepSetting('recent-corrections', [correction.id, ...recent.filter((id) => id !== correction.id)].slice(0, MOST_RECENT));
    onAdd(edit(correction));
  };
  const item = (correction: Correction, group: string) => {
    const reason = whyNot(document, edit(correction));
    return (
      <Finder.Item key={correction.id} value={`${group} ${correction.label} ${correction.summary}`} disabled={reason !== null} title={reason ?? correction.summary} onSelect={() => add(correction)} className="flex items-baseline gap-3 px-2.5 py-0.5 data-[disabled=true]:text-faint data-[selected=true]:bg-accent data-[selected=true]:text-on-accent">
        <span className="shrink-0">{correction.label}</span>
        <span className="ml-auto truncate text-[11px] opacity-75">{reason ?? hint?.(correction)}</span>
      </Finder.Item>
    );
  };
  const known = recent.filter(isCorrectionId).map(correctionById);
  return (
    <Finder label="Find a correction" loop className="flex min-h-0 flex-col">
      <Finder.Input autoFocus placeholder="Find a correction" className="field m-1.5 h-7" />
      <Finder.List className="min-h-0 flex-1 overflow-y-auto pb-1">
        <Finder.Empty className="px-2.5 py-1 text-faint">No correction is called that.</Finder.Empty>
        {known.length > 0 && <Finder.Group heading="Used last">{known.map((correction) => item(correction, 'Used last'))}</Finder.Group>}
        {CORRECTION_GROUPS.map((group) => (
          <Finder.Group key={group} heading={group}>
            {corrections.filter((correction) => correction.group === group).map((correction) => item(correction, group))}
          </Finder.Group>
        ))}
      </Finder.List>
    </Finder>
  );
}
