import { Crosshair } from 'lucide-react';
import { useEffect } from 'react';
import { Button } from '../ui/button.tsx';
import { useActions, useSession, useWorkspace } from '../workspace/context.ts';

/** Takes the tool that sets something by a click in the picture. */
export function PickButton({ label, index = 0, before }: { label: string; /** Among the picks of a correction. */ index?: number; /** Done first, so that the click is for what the button belongs to. */ before?: () => void }) {
  const { session } = useWorkspace();
  const actions = useActions();
  const picking = useSession((state) => state.tool === 'pick' && state.openPick === index);
  // Without the button a click in the picture would do something unseen.
  useEffect(
    () => () => {
      if (session.getState().tool === 'pick') session.actions.set({ tool: 'select' });
    },
    [session],
  );
  const press = () => {
    before?.();
    actions.set({ openPick: index, tool: picking ? 'select' : 'pick' });
  };
  return (
    <Button aria-pressed={picking} className="mt-1 aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-panel" onClick={press}>
      <Crosshair size={13} aria-hidden /> {picking ? 'Click in the picture' : label}
    </Button>
  );
}
