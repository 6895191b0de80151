import type { CommandHost } from '@tazzel/editor';
import { ToggleGroup } from 'radix-ui';
import { memo, type ReactNode } from 'react';
import { useCommandButton } from '../workspace/commands.tsx';
import { useActions, usePart, useSession, useViewport } from '../workspace/context.ts';

/** Ways of looking: compare, mask, zoom. */
export const PictureBar = memo(function PictureBar({ host }: { host: CommandHost }) {
  const compare = useSession((state) => state.compare);
  const maskDisplay = useSession((state) => state.maskDisplay);
  const viewedSourceId = useSession((state) => state.viewedSourceId);
  const pointAt = useSession((state) => state.pointAt);
  const hasBoth = usePart(({ materials }) => materials.some(({ kind }) => kind !== materials[0].kind));
  const actions = useActions();
  const zoom = useViewport((state) => state.zoom);
  const fitted = useViewport((state) => state.fitted);
  return (
    <div role="toolbar" aria-label="Looking" className="flex h-[30px] items-center gap-3 border-b px-2">
      <Strip>
        <CommandToggle id="before" host={host} text="Before" pressed={compare === 'before'} />
        <CommandToggle id="wipe" host={host} text="Wipe" pressed={compare === 'wipe'} />
        <CommandToggle id="view-element" host={host} text="Element alone" pressed={viewedSourceId !== null} />
      </Strip>
      <span className="lettering ml-1 text-[10px] text-faint" id="mask-display">
        Mask
      </span>
      <ToggleGroup.Root type="single" aria-labelledby="mask-display" value={maskDisplay} onValueChange={(value) => value && actions.set({ maskDisplay: value as typeof maskDisplay })} className="flex">
        {(['off', 'hatch', 'matte'] as const).map((value) => (
          <ToggleGroup.Item key={value} value={value} className="-ml-px h-[22px] border border-rule px-2 text-[12px] capitalize hover:border-ink data-[state=on]:bg-ink data-[state=on]:text-panel">
            {value}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      {hasBoth && (
        <Strip>
          <span className="lettering mr-2 self-center text-[10px] text-faint">Point at</span>
          <CommandToggle id="point-at" host={host} text={pointAt === 'material' ? 'Materials' : 'Objects'} />
        </Strip>
      )}
      <span className="flex-1" />
      <Strip>
        <CommandToggle id="zoom-out" host={host} text="−" />
        <span className="figure grid h-[22px] w-14 place-items-center border border-rule text-[11px]">{(zoom * 100).toFixed(zoom < 0.1 ? 1 : 0)} %</span>
        <CommandToggle id="zoom-in" host={host} text="+" />
        <CommandToggle id="fit" host={host} text="Fit" pressed={fitted} />
        <CommandToggle id="full-size" host={host} text="100 %" pressed={!fitted && zoom === 1} />
      </Strip>
    </div>
  );
});

const Strip = ({ children }: { children: ReactNode }) => <div className="flex">{children}</div>;

function CommandToggle({ id, host, text, pressed }: { id: string; host: CommandHost; text: string; pressed?: boolean }) {
  const { label, hint, disabled, onClick } = useCommandButton(id, host);
  return (
    <button type="button" data-hint={hint ? `${label} (${hint})` : label} aria-label={label} aria-pressed={pressed} disabled={disabled} onClick={onClick} className="-ml-px h-[22px] border border-rule px-2 text-[12px] hover:border-ink disabled:opacity-40 aria-pressed:bg-ink aria-pressed:text-panel">
      {text}
    </button>
  );
}
