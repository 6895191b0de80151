import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';

export interface MenuItem {
  readonly label: string;
  readonly hint?: string;
  readonly disabled?: boolean;
  readonly onSelect: () => void;
}

/** Asked for when the menu opens. */
const Items = ({ items }: { items: () => readonly (MenuItem | null)[] }) =>
  items().map((item, i) =>
    item === null ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: rules have no identity of their own
      <DropdownMenu.Separator key={i} className="my-0.5 h-px bg-hair" />
    ) : (
      <DropdownMenu.Item key={item.label} disabled={item.disabled} onSelect={item.onSelect} className="flex items-center gap-6 px-2.5 py-0.5 outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-accent data-[highlighted]:text-on-accent">
        <span>{item.label}</span>
        {item.hint && <span className="figure ml-auto opacity-75">{item.hint}</span>}
      </DropdownMenu.Item>
    ),
  );

/** A button's menu. `null` is a rule between items. */
export const Menu = ({ trigger, items }: { trigger: ReactNode; items: () => readonly (MenuItem | null)[] }) => (
  <DropdownMenu.Root>
    <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
    <DropdownMenu.Portal>
      <DropdownMenu.Content sideOffset={2} collisionPadding={8} className="z-50 max-h-(--radix-dropdown-menu-content-available-height) min-w-44 overflow-y-auto border border-ink bg-sheet py-0.5">
        <Items items={items} />
      </DropdownMenu.Content>
    </DropdownMenu.Portal>
  </DropdownMenu.Root>
);
