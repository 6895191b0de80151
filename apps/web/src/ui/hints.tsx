/** What a button says when one rests on it: one hint for all of them, since hundreds of hidden ones take longer to make than the rest of the page. */
import { Tooltip } from 'radix-ui';
import { useEffect, useState } from 'react';

const REST_MS = 500;

interface Shown {
  readonly text: string;
  readonly box: DOMRect;
}

const bearerOf = (target: EventTarget | null) => (target instanceof Element ? target.closest<HTMLElement>('[data-hint]') : null);
const shownFor = (bearer: HTMLElement): Shown => ({ text: bearer.dataset.hint ?? '', box: bearer.getBoundingClientRect() });

export function Hints() {
  const [shown, setShown] = useState<Shown | null>(null);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const hide = () => {
      clearTimeout(timer);
      setShown(null);
    };
    const over = ({ target }: PointerEvent) => {
      const bearer = bearerOf(target);
      hide();
      if (bearer) timer = setTimeout(() => bearer.isConnected && setShown(shownFor(bearer)), REST_MS);
    };
    const focus = ({ target }: FocusEvent) => {
      const bearer = bearerOf(target);
      // Only who came by the keyboard is told at once.
      if (bearer?.matches(':focus-visible')) setShown(shownFor(bearer));
    };
    const listeners: [string, (event: never) => void][] = [['pointerover', over], ['pointerdown', hide], ['keydown', hide], ['focusin', focus], ['focusout', hide], ['scroll', hide]];
    for (const [type, listener] of listeners) document.addEventListener(type, listener as EventListener, { capture: true, passive: true });
    return () => {
      clearTimeout(timer);
      for (const [type, listener] of listeners) document.removeEventListener(type, listener as EventListener, { capture: true });
    };
  }, []);
  if (!shown) return null;
  const { left, top, width, height } = shown.box;
  return (
    <Tooltip.Root open>
      <Tooltip.Trigger asChild>
        <span aria-hidden className="pointer-events-none fixed" style={{ left, top, width, height }} />
      </Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content sideOffset={4} collisionPadding={8} className="pointer-events-none z-50 max-w-72 border border-ink bg-ink px-2 py-1 text-[12px] text-panel">
          {shown.text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
