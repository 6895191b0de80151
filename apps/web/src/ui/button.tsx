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
  /** Name for screen readers, and what is said when one rests on it. */
  readonly label: string;
  readonly hint?: string;
  readonly children: ReactNode;
}

export const IconButton = ({ label, hint, look = 'quiet', className = '', ...rest }: IconButtonProps) => (
  <button type="button" aria-label={label} data-hint={hint ? `${label} (${hint})` : label} className={`${base} ${looks[look]} size-6 shrink-0 ${className}`} {...rest} />
);
