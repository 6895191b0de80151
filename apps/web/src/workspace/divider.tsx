/** The edge between a panel and the rest of the sheet: dragged it resizes the panel, a double click folds it; folded it opens it again. */
import { type KeyboardEvent, type PointerEvent, useRef } from 'react';
import { foldPanel, type Panel, panels, resizePanel, useLayout } from './layout.ts';

/** Pixels of one nudge of the arrow keys; Shift makes it ten. */
const STEP = 8;

interface DividerProps {
  readonly panel: Panel;
  /** On which side of the divider the panel lies. */
  readonly side: 'left' | 'right' | 'below';
}

export function Divider({ panel, side }: DividerProps) {
  const size = useLayout((layout) => layout.sizes[panel]);
  const isFolded = useLayout((layout) => layout.folded[panel]);
  const drag = useRef<{ at: number; size: number } | null>(null);
  const { label, least, most } = panels[panel];
  const along = (event: PointerEvent) => (side === 'below' ? event.clientY : event.clientX);
  const grows = side === 'left' ? 1 : -1;
  const keys = (event: KeyboardEvent) => {
    const by = { ArrowLeft: side === 'below' ? 0 : -1, ArrowRight: side === 'below' ? 0 : 1, ArrowUp: side === 'below' ? -1 : 0, ArrowDown: side === 'below' ? 1 : 0 }[event.key];
    if (by) {
      event.preventDefault();
      resizePanel(panel, size + by * grows * STEP * (event.shiftKey ? 10 : 1));
    } else if (event.key === 'Enter' || event.key === ' ') {
      event.preventDefault();
      foldPanel(panel);
    }
  };
  const name = isFolded ? `Open the ${label}` : `Size of the ${label}; Enter folds ${panel === 'schedules' ? 'them' : 'it'}`;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a rule that is moved, not one that divides text
    <div
      role="separator"
      tabIndex={0}
      aria-label={name}
      title={isFolded ? `Open the ${label}` : 'Drag to resize, double click to fold'}
      aria-orientation={side === 'below' ? 'horizontal' : 'vertical'}
      aria-valuemin={least}
      aria-valuemax={most}
      aria-valuenow={isFolded ? least : size}
      data-panel={panel}
      className={`group grid shrink-0 touch-none place-items-center bg-panel hover:bg-hair focus-visible:bg-hair ${side === 'below' ? 'h-[5px] w-full cursor-row-resize border-t border-ink' : 'w-[5px] cursor-col-resize border-x'}`}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = { at: along(event), size: isFolded ? least : size };
      }}
      onPointerMove={(event) => {
        const start = drag.current;
        if (!start) return;
        const wanted = start.size + (along(event) - start.at) * grows;
        if (isFolded ? wanted > least : wanted < least / 2) foldPanel(panel, !isFolded);
        else if (!isFolded) resizePanel(panel, wanted);
      }}
      onPointerUp={() => {
        drag.current = null;
      }}
      onPointerCancel={() => {
        drag.current = null;
      }}
      onClick={() => isFolded && foldPanel(panel, false)}
      onDoubleClick={() => foldPanel(panel)}
      onKeyDown={keys}
    >
      <span aria-hidden className={`bg-rule group-hover:bg-ink ${side === 'below' ? 'h-px w-6' : 'h-6 w-px'}`} />
    </div>
  );
}
