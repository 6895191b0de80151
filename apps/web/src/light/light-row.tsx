import { groupName, hexOf, type LightValues, lightValues, ownColour, recoloured, type Source, type Triple } from '@tazzel/core';
import { Headphones, Link2 } from 'lucide-react';
import { memo } from 'react';
import { IconButton } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { useActions, usePart, useSession } from '../workspace/context.ts';
import type { LightFigure } from './use-lights.ts';

/** The colour in which a group shines now, as light as a swatch is. */
export function lightColour(own: Triple | null, { takes, color }: LightValues): string {
  const from = own ?? [1, 1, 1];
  const light = takes === 'chosen' ? recoloured(from, color).gain.map((gain, c) => gain * from[c]) : from;
  const most = Math.max(...light, 1e-6);
  return hexOf(light.map((value) => value / most));
}

/** A multiplier as people write it. */
export const times = (stops: number): string => {
  const watts = 2 ** stops;
  return `× ${watts >= 100 || watts < 0.01 ? watts.toPrecision(2) : watts.toFixed(2)}`;
};
export const percentOf = (share: number): string => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;

/** Grain that is seen: more than a few percent of the light, and clearly more than as rendered. Common practice, no published source. */
export const isGrainy = ({ noise, noiseAsRendered }: LightFigure): boolean => noise > 0.03 && noise > 1.5 * noiseAsRendered;

interface Row {
  readonly row: readonly Source[];
  readonly figure: LightFigure | null;
  /** What there is of the group at hand. */
  readonly children: React.ReactNode;
}
const isSameRow = (a: Row, b: Row) => a.figure === b.figure && a.children === b.children && a.row.length === b.row.length && a.row.every((source, i) => source === b.row[i]);
const NOTHING_SET = {};

/** One row of the board: a group, or several that are changed together. A step of one row's slider draws no other row. */
export const LightRow = memo(function LightRow({ row, figure, children }: Row) {
  const [first] = row;
  const actions = useActions();
  const values = lightValues(usePart(({ light }) => light.mix.find(({ sourceId }) => sourceId === first.id)?.params ?? NOTHING_SET));
  const own = usePart(({ light }) => ownColour(light, first.id));
  const isSelected = useSession(({ focus }) => focus.kind === 'light' && row.some(({ id }) => id === focus.lightId));
  const isSolo = useSession(({ soloLightIds }) => row.every(({ id }) => soloLightIds.includes(id)));
  const name = groupName(first);
  const set = (params: Partial<LightValues>, gesture?: string) => actions.edit({ type: 'set-params', lightId: first.id, params }, gesture);
  return (
    <li aria-current={isSelected} className="border-b border-hair py-1 pr-2 pl-3 last:border-b-0 aria-[current=true]:bg-sheet">
      <div className="flex items-center gap-1.5">
        <Check bare label={`${name} on`} checked={values.on} onChange={(on) => set({ on })} />
        <button type="button" aria-label={`${name}: colour and more`} aria-expanded={isSelected} onClick={() => actions.selectLight(first.id)} className="flex min-w-0 flex-1 items-center gap-1.5 text-left">
          <span className="size-[15px] shrink-0 border border-ink" style={{ background: lightColour(own, values) }} />
          <span className="truncate">{name}</span>
          {row.length > 1 && (
            <span title={`Linked with ${row.slice(1).map(groupName).join(', ')}`} className="figure flex shrink-0 items-center gap-0.5 text-[11px] text-faint">
              <Link2 size={12} aria-label="linked with" />
              {row.length - 1}
            </span>
          )}
        </button>
        {figure && (
          <span className="figure text-[11px] text-faint" title="Share of the picture’s light">
            {percentOf(figure.share)}
          </span>
        )}
        <IconButton label={`${name} alone`} aria-pressed={isSolo} onClick={() => actions.soloLights(row.map(({ id }) => id))} className="!size-[21px]">
          <Headphones size={13} aria-hidden />
        </IconButton>
      </div>
      <div className={`pl-[21px] ${values.on ? '' : 'opacity-50'}`} onPointerDown={() => actions.selectLight(first.id)}>
        <NumberField bare label={name} value={values.intensityStops} min={-20} max={20} usual={[-6, 6]} step={0.05} digits={2} unit="EV" initial={0} onChange={(intensityStops, gesture) => set({ intensityStops }, gesture)} />
      </div>
      <p className="figure flex justify-between pt-0.5 pr-1.5 pl-[21px] text-[11px] text-faint">
        {figure && values.on ? (
          <span title={`Grain that it brings, of the light that is seen there; ${percentOf(figure.noiseAsRendered)} as rendered`} className={isGrainy(figure) ? 'text-warn' : ''}>
            grain {percentOf(figure.noise)}
          </span>
        ) : (
          <span />
        )}
        <span>{values.on ? times(values.intensityStops) : 'off'}</span>
      </p>
      {children}
    </li>
  );
}, isSameRow);
