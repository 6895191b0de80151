import { type Edit, whyNot } from '@tazzel/core';
import { Button } from '../ui/button.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument } from '../workspace/context.ts';

export interface Way {
  readonly label: string;
  readonly help: string;
  readonly edit: Edit;
  /** Instead of the edit alone. */
  readonly run?: () => void;
}

/** Things that can be added, each with what it is, or why it cannot be. */
export function WaysSection({ title, ways }: { title: string; ways: readonly Way[] }) {
  const document = useDocument();
  const actions = useActions();
  return (
    <Section title={title}>
      <ul className="flex flex-col gap-2">
        {ways.map(({ label, help, edit, run }) => {
          const lack = whyNot(document, edit);
          return (
            <li key={label}>
              <Button className="w-full justify-start" disabled={lack !== null} onClick={run ?? (() => void actions.edit(edit))}>
                {label}
              </Button>
              <p className="pt-0.5 text-[12px] text-faint">{lack ?? help}</p>
            </li>
          );
        })}
      </ul>
    </Section>
  );
}
