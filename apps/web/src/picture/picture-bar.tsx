import type { CommandHost } from '@tazzel/editor';
import { Columns2, Diff, Image as ImageIcon, Pipette, ZoomIn } from 'lucide-react';
import { ToggleGroup } from 'radix-ui';
import { memo, type ReactNode } from 'react';
import { readings } from '@tazzel/core';
import { Choice } from '../ui/choice.tsx';
import { stageById } from '../stages/registry.ts';
import { useCommandButton } from '../workspace/commands.tsx';
import { useActions, usePart, useSession, useViewport } from '../workspace/context.ts';

const READINGS = [{ value: 'none', label: 'As it is' }, ...readings.map(({ id, label, summary }) => ({ value: id, label, hint: summary }))];

/** Ways of looking: compare, read, mask, zoom. */
export const PictureBar = memo(function PictureBar({ host }: { host: CommandHost }) {
  const compare = useSession((state) => state.compare);
  const reading = useSession((state) => state.reading);
  const isSolo = useSession((state) => state.soloLayerId !== null);
  const [hasLoupe, hasThumbnail, places] = [useSession((state) => state.loupe > 0), useSession((state) => state.thumbnail), useSession((state) => state.tool === 'sampler')];
  const maskDisplay = useSession((state) => state.maskDisplay);
  const viewedSourceId = useSession((state) => state.viewedSourceId);
  const pointAt = useSession((state) => state.pointAt);
  const hasBoth = usePart(({ materials }) => materials.some(({ kind }) => kind !== materials[0].kind));
  const actions = useActions();
  const zoom = useViewport((state) => state.zoom);
  const fitted = useViewport((state) => state.fitted);
  return (
    <div role="toolbar" aria-label="Looking" className="flex h-[30px] items-center gap-2 border-b px-2">
      <Strip>
        <CommandToggle id="before" host={host} text="Before" pressed={compare === 'before'} />
        <CommandToggle id="wipe" host={host} text="Wipe" pressed={compare === 'wipe'} />
        <CommandToggle id="beside" host={host} text={<Columns2 size={13} aria-hidden />} pressed={compare === 'beside'} />
        <CommandToggle id="difference" host={host} text={<Diff size={13} aria-hidden />} pressed={compare === 'difference'} />
      </Strip>
      <Strip>
        <CommandToggle id="view-element" host={host} text="Element" pressed={viewedSourceId !== null} />
        {!stageById[host.stage].pointsAtMaterials && <CommandToggle id="solo" host={host} text="Layer" pressed={isSolo} />}
      </Strip>
      <Choice label="How the picture is read" value={reading ?? 'none'} options={READINGS} onChange={(value) => actions.set({ reading: value === 'none' ? null : value })} className="h-[22px] w-[92px]" />
      <ToggleGroup.Root type="single" aria-label="Mask on the picture" value={maskDisplay} onValueChange={(value) => value && actions.set({ maskDisplay: value as typeof maskDisplay })} className="flex">
        {(['off', 'hatch', 'matte'] as const).map((value) => (
          <ToggleGroup.Item key={value} value={value} className="-ml-px h-[22px] border border-rule px-1.5 text-[12px] capitalize hover:border-ink data-[state=on]:bg-ink data-[state=on]:text-panel">
            {value}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      {hasBoth && stageById[host.stage].pointsAtMaterials && (
        <Strip>
          <CommandToggle id="point-at" host={host} text={pointAt === 'material' ? 'Materials' : 'Objects'} />
        </Strip>
      )}
      <span className="flex-1" />
      <Strip>
        <CommandToggle id="loupe" host={host} text={<ZoomIn size={13} aria-hidden />} pressed={hasLoupe} />
        <CommandToggle id="thumbnail" host={host} text={<ImageIcon size={13} aria-hidden />} pressed={hasThumbnail} />
        <CommandToggle id="sampler" host={host} text={<Pipette size={13} aria-hidden />} pressed={places} />
      </Strip>
      <Strip>
        <CommandToggle id="zoom-out" host={host} text="−" />
        <span className="figure grid h-[22px] w-12 place-items-center border border-rule text-[11px]">{(zoom * 100).toFixed(zoom < 0.1 ? 1 : 0)} %</span>
        <CommandToggle id="zoom-in" host={host} text="+" />
        <CommandToggle id="fit" host={host} text="Fit" pressed={fitted} />
        <CommandToggle id="full-size" host={host} text="100 %" pressed={!fitted && zoom === 1} />
      </Strip>
    </div>
  );
});

const Strip = ({ children }: { children: ReactNode }) => <div className="flex">{children}</div>;

function CommandToggle({ id, host, text, pressed }: { id: string; host: CommandHost; text: ReactNode; pressed?: boolean }) {
  const { label, hint, disabled, onClick } = useCommandButton(id, host);
  return (
    <button type="button" data-hint={hint ? `${label} (${hint})` : label} aria-label={label} aria-pressed={pressed} disabled={disabled} onClick={onClick} className="-ml-px grid h-[22px] place-items-center border border-rule px-1.5 text-[12px] whitespace-nowrap hover:border-ink disabled:opacity-40 aria-pressed:bg-ink aria-pressed:text-panel">
      {text}
    </button>
  );
}
