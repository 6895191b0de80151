import { Tooltip } from 'radix-ui';
import type { ComponentProps, ReactNode } from 'react';

const base = 'inline-flex items-center justify-center gap-1.5 border select-none disabled:opacity-40';
const looks = {
  plain: 'border-rule bg-sheet hover:border-ink data-[state=open]:border-ink',
  quiet: 'border-transparent hover:border-rule aria-pressed:border-ink aria-pressed:bg-sheet data-[state=open]:border-rule',
  main: 'border-accent bg-accent text-on-accent hover:brightness-110',
} as const;

interface ButtonProps extends ComponentProps<'button'> {
  readonly look?: keyof typeof looks;
}

export const Button = ({ look = 'plain', className = '', ...rest }: ButtonProps) => <button type="button" className={`${base} ${looks[look]} h-7 px-2.5 ${className}`} {...rest} />;

interface IconButtonProps extends ButtonProps {
  /** Name for screen readers and tooltip. */
  readonly label: string;
  readonly hint?: string;
  readonly children: ReactNode;
}

export const IconButton = ({ label, hint, look = 'quiet', className = '', ...rest }: IconButtonProps) => (
  <Hint text={hint ? `${label} (${hint})` : label}>
    <button type="button" aria-label={label} className={`${base} ${looks[look]} size-6 shrink-0 ${className}`} {...rest} />
  </Hint>
);

export const Hint = ({ text, children }: { text: string; children: ReactNode }) => (
  <Tooltip.Root>
    <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
    <Tooltip.Portal>
      <Tooltip.Content sideOffset={4} collisionPadding={8} className="z-50 max-w-72 border border-ink bg-ink px-2 py-1 text-[12px] text-panel">
        {text}
      </Tooltip.Content>
    </Tooltip.Portal>
  </Tooltip.Root>
);
