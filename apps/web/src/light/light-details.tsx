/** The light group that is at hand: its colour, its grain, and what it costs to change them. */
import { chromatic, completeParams, groupName, groupsOf, hexOf, type KeptValues, lightGroup, type LightValues, linkedWith, ownColour, recoloured, settingOf, type Source, temperatureOf, type Triple, whiteOf, xyYToLinearSrgb } from '@tazzel/core';
import { Layers2, Link2, RotateCcw, Unlink2 } from 'lucide-react';
import { ParamFields } from '../fields/param-fields.tsx';
import { PickButton } from '../fields/pick-button.tsx';
import { Button } from '../ui/button.tsx';
import { Menu } from '../ui/menu.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { useActions, useDocument } from '../workspace/context.ts';
import { isGrainy, percentOf } from './light-row.tsx';
import { type LightFigure, stopsOfWatts } from './use-lights.ts';

const CHANNELS = ['red', 'green', 'blue'] as const;

/** Light of a temperature along the locus of glowing bodies, and a tint beside it. */
const lightOf = (kelvin: number, tint: number): Triple => {
  const [x, y] = whiteOf('glow', kelvin, tint);
  return xyYToLinearSrgb(x, y, 1).map((value) => Math.round(Math.max(0, value) * 1e5) / 1e5) as unknown as Triple;
};

export function LightDetails({ group, figure }: { group: Source; figure: LightFigure | null }) {
  const document = useDocument();
  const actions = useActions();
  const { light } = document;
  const own = ownColour(light, group.id);
  const values = settingOf(light.mix, group.id);
  const links = linkedWith(light, group.id);
  const set = (params: KeptValues, gesture?: string) => actions.edit({ type: 'set-params', lightId: group.id, params }, gesture);
  const { takes, color, denoisePercent, flickerPercent } = lightGroup.params;
  const white = temperatureOf('glow', values.color);
  const reset = (what: 'intensity' | 'colour' | 'all') => actions.edit({ type: 'reset-lights', what, sourceId: group.id });
  const others = groupsOf(document).filter(({ id }) => !links.includes(id));
  return (
    <section aria-label={links.length > 1 ? `${groupName(group)} and linked` : groupName(group)} className="mt-1 mr-1 border-t border-hair pt-1.5 pb-1 pl-[21px]">
      <NumberField label="Watts" value={2 ** values.intensityStops} min={0.000001} max={1_048_576} usual={[0, 4]} step={0.05} digits={2} unit="×" initial={1} help="The same as the intensity: 2 is twice the watts, +1 EV." onChange={(watts, gesture) => set({ intensityStops: stopsOfWatts(watts) }, gesture)} />
      <ParamFields params={{ takes, color }} values={completeParams(lightGroup, { ...values } as unknown as KeptValues)} onChange={set} />
      {values.takes === 'chosen' && white && (
        <>
          <NumberField label="Temperature" value={white.kelvin} min={1700} max={25_000} usual={[1800, 15_000]} step={50} digits={0} unit="K" initial={6504} help="Along the locus of glowing bodies (Planck): 2700 K is a warm lamp, 6504 K white, 15 000 K a blue sky." onChange={(kelvin, gesture) => set({ color: lightOf(kelvin, white.tint) }, gesture)} />
          <NumberField label="Tint" value={white.tint} min={-100} max={100} step={1} digits={0} unit="" initial={0} help="Above 0 greener, below 0 more magenta." onChange={(tint, gesture) => set({ color: lightOf(white.kelvin, tint) }, gesture)} />
        </>
      )}
      <PickButton label="Take from the picture" before={() => actions.selectLight(group.id)} />
      <Reach own={own} values={values} onTake={(next) => set({ color: next })} />
      <ParamFields params={{ denoisePercent, flickerPercent }} values={completeParams(lightGroup, { ...values } as unknown as KeptValues)} onChange={set} />
      {figure && values.on && isGrainy(figure) && (
        <p role="status" className="mt-1 text-[12px] text-warn">
          Its grain will be seen: {percentOf(figure.noise)} of the light where it lies, {percentOf(figure.noiseAsRendered)} as rendered. {values.denoisePercent > 0 ? 'That is before it is denoised.' : 'Raise it less, or denoise it.'}
        </p>
      )}
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <Menu
          trigger={
            <Button>
              <RotateCcw size={12} aria-hidden /> As rendered
            </Button>
          }
          items={() => [{ label: 'Intensity', onSelect: () => reset('intensity') }, { label: 'Colour', onSelect: () => reset('colour') }, { label: 'Both, and all else', onSelect: () => reset('all') }]}
        />
        <Button onClick={() => actions.edit({ type: 'add-light', sourceId: group.id })}>
          <Layers2 size={13} aria-hidden /> Add over the picture
        </Button>
        {others.length > 0 && (
          <Menu
            trigger={
              <Button>
                <Link2 size={13} aria-hidden /> Link with
              </Button>
            }
            items={() => others.map((other) => ({ label: groupName(other), onSelect: () => void actions.edit({ type: 'link-lights', sourceIds: [group.id, other.id] }) }))}
          />
        )}
        {links.length > 1 && (
          <Button onClick={() => actions.edit({ type: 'unlink-lights', sourceId: group.id })}>
            <Unlink2 size={13} aria-hidden /> Split
          </Button>
        )}
      </div>
    </section>
  );
}

/** What the lamp's own light says to the colour that is wanted of it. */
function Reach({ own, values, onTake }: { own: Triple | null; values: LightValues; onTake: (color: Triple) => void }) {
  if (values.takes === 'rendered') {
    const white = own && temperatureOf('glow', own);
    return (
      <p className="mt-1 text-[12px] text-faint">
        {own ? <>As rendered its light is <Swatch light={own} /> about {Math.round((white?.kelvin ?? 0) / 50) * 50} K, by what it lights.</> : 'The colour of its light is being measured.'}
      </p>
    );
  }
  if (!own) return <p className="mt-1 text-[12px] text-faint">Until the colour of its light is measured it counts as white.</p>;
  const { channel, wantedStops, costStops, darkerStops, lacks, nearest } = recoloured(own, values.color);
  if (lacks.length > 0) return <p role="status" className="mt-1 text-[12px] text-warn">Its light holds no {lacks.map((c) => CHANNELS[c]).join(' and no ')} at all: that part of the colour cannot be made. Render the lamp whiter.</p>;
  if (costStops < 1) return <p className="mt-1 text-[12px] text-faint">Within reach: {costStops < 0.05 ? 'no channel is raised' : `${CHANNELS[channel]} is raised by ${costStops.toFixed(1)} EV, and its grain with it`}.</p>;
  return (
    <div role="status" className="mt-1 text-[12px] text-warn">
      <p>
        Its light holds little {CHANNELS[channel]}: the grain of {CHANNELS[channel]} grows by {costStops.toFixed(1)} stops
        {darkerStops > 0.05 ? `, and it becomes ${darkerStops.toFixed(1)} EV darker. As bright as rendered would take ${wantedStops.toFixed(1)} stops.` : '.'}
      </p>
      {darkerStops > 0.05 && (
        <p className="mt-1 flex items-center gap-1.5 text-ink">
          Nearest as bright as rendered: <Swatch light={nearest} />
          <Button className="h-6 px-1.5" onClick={() => onTake(nearest.map((value) => Math.round(value * 1e5) / 1e5) as unknown as Triple)}>
            Take it
          </Button>
        </p>
      )}
    </div>
  );
}

function Swatch({ light }: { light: Triple }) {
  const full = chromatic(light) ?? light;
  const most = Math.max(...full, 1e-6);
  return <span aria-hidden className="inline-block size-[11px] border border-ink align-[-1px]" style={{ background: hexOf(full.map((value) => value / most)) }} />;
}
