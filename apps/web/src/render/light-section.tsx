import { AS_RENDERED, completeParams, type KeptValues, lightGroup, type LightValues } from '@tazzel/core';
import { LIGHT_MIX, lightGroups } from '@tazzel/renderer';
import { Download } from 'lucide-react';
import { useState } from 'react';
import { useStore } from 'zustand';
import { ParamFields } from '../fields/param-fields.tsx';
import { download } from '../ui/download.ts';
import { showNotes } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Section } from '../ui/section.tsx';
import { bench, isBusy } from './bench-store.ts';

/** The light groups of the scene; with those of a render there is a mix, which is tried while the render still runs. */
export function LightSection() {
  const scene = useStore(bench.store, (state) => state.scene);
  const mix = useStore(bench.store, (state) => state.mix);
  const busy = useStore(bench.store, isBusy);
  const canMix = useStore(bench.store, ({ views }) => views.some(({ element }) => element === LIGHT_MIX));
  const [open, setOpen] = useState('');
  if (!scene) return null;
  const members = (group: string) => scene.lamps.filter((lamp) => (lamp.group ?? 'rest') === group).length;
  const isMixed = Object.values(mix).some((values) => JSON.stringify(values) !== JSON.stringify(AS_RENDERED));
  const write = async () => {
    try {
      const missing = await bench.writeMix();
      showNotes('The lamps carry the mix now', ['Start the render again: it will look as the mix did. The mix itself is back to as rendered, or the light would be mixed twice.', ...missing.map((name) => `The scene has no group “${name}”.`)]);
    } catch (error) {
      showNotes('Nothing was written', [(error as Error).message]);
    }
  };
  return (
    <Section title="Light groups">
      <ul className="text-[12px]">
        {lightGroups(scene).map((group) => {
          const values: LightValues = mix[group] ?? AS_RENDERED;
          const { takes, color } = lightGroup.params;
          return (
            <li key={group} className="border-b border-hair py-1 last:border-b-0">
              <div className="flex items-center gap-1.5">
                {canMix && <Check bare label={`${group} on`} checked={values.on} onChange={(on) => bench.setLight(group, { on })} />}
                <button type="button" disabled={!canMix} aria-expanded={open === group} onClick={() => setOpen(open === group ? '' : group)} className="min-w-0 flex-1 truncate text-left">
                  {group}
                </button>
                <span className="figure text-faint">{group === 'environment' ? 'sky' : group === 'sun' ? (scene.sun ? 'sun' : 'none') : `${members(group)} lamps`}</span>
              </div>
              {canMix && <NumberField bare label={group} value={values.intensityStops} min={-20} max={20} usual={[-6, 6]} step={0.05} digits={2} unit="EV" initial={0} disabled={!values.on} onChange={(intensityStops) => bench.setLight(group, { intensityStops })} />}
              {canMix && open === group && <ParamFields params={{ takes, color }} values={completeParams(lightGroup, { ...values } as unknown as KeptValues)} onChange={(params) => bench.setLight(group, params as Partial<LightValues>)} />}
            </li>
          );
        })}
      </ul>
      {!canMix && <p className="pt-1 text-[12px] text-faint">Tick the light groups among the elements: their mix can be tried while they render.</p>}
      <div className="flex flex-wrap gap-1.5 pt-1.5">
        {canMix && (
          <>
            <Button disabled={!isMixed} onClick={() => bench.resetMix()}>
              As rendered
            </Button>
            <Button disabled={!isMixed || busy} onClick={() => void write()}>
              Write into the lamps
            </Button>
          </>
        )}
        <Button onClick={() => download(`${scene.name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}.scene.json`, [`${JSON.stringify(bench.description(), null, 1)}\n`], 'application/json')}>
          <Download size={13} aria-hidden /> Save the scene
        </Button>
      </div>
    </Section>
  );
}
