import { useStore } from 'zustand';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Line, Section } from '../ui/section.tsx';
import { bench, FIRST_CHOICES } from './bench-store.ts';

const SIZES = [[480, 320], [640, 427], [960, 640], [1500, 1000], [2400, 1600], [3600, 2400]] as const;

interface QualityProps {
  readonly disabled: boolean;
  readonly setsRegion: boolean;
  readonly onSetRegion: (on: boolean) => void;
}

export function QualitySection({ disabled, setsRegion, onSetRegion }: QualityProps) {
  const choices = useStore(bench.store, (state) => state.choices);
  const region = useStore(bench.store, (state) => state.region);
  const hasFog = useStore(bench.store, (state) => state.scene?.fog !== null);
  const size = `${choices.width}x${choices.height}`;
  const known = SIZES.some(([width, height]) => size === `${width}x${height}`);
  const limit = (patch: Partial<typeof choices>) => {
    const next = { ...choices, ...patch };
    if (next.stopsAtNoise || next.stopsAtTime) bench.choose(patch);
  };
  const resize = (width: number, height: number) => {
    bench.setRegion(null);
    bench.choose({ width, height });
  };
  return (
    <Section title="Size and quality">
      <Line label="Size">
        <Choice label="Size" value={known ? size : 'own'} disabled={disabled} options={[...SIZES.map(([width, height]) => ({ value: `${width}x${height}`, label: `${width} × ${height}` })), ...(known ? [] : [{ value: 'own', label: `${choices.width} × ${choices.height}` }])]} onChange={(value) => value !== 'own' && resize(...(value.split('x').map(Number) as [number, number]))} />
      </Line>
      <NumberField label="Width" unit="px" value={choices.width} min={64} max={8000} step={10} digits={0} initial={FIRST_CHOICES.width} disabled={disabled} onChange={(width) => resize(Math.round(width), choices.height)} />
      <NumberField label="Height" unit="px" value={choices.height} min={64} max={8000} step={10} digits={0} initial={FIRST_CHOICES.height} disabled={disabled} onChange={(height) => resize(choices.width, Math.round(height))} />
      <div className="py-0.5">
        <Check label="Stop at this noise" checked={choices.stopsAtNoise} disabled={disabled} onChange={(stopsAtNoise) => limit({ stopsAtNoise })} />
      </div>
      <NumberField label="Noise" unit="%" value={choices.noisePercent} min={0.5} max={25} step={0.5} digits={1} initial={FIRST_CHOICES.noisePercent} disabled={disabled || !choices.stopsAtNoise} help="Estimated from the samples of each tile" onChange={(noisePercent) => bench.choose({ noisePercent })} />
      <div className="py-0.5">
        <Check label="Stop after this time" checked={choices.stopsAtTime} disabled={disabled} onChange={(stopsAtTime) => limit({ stopsAtTime })} />
      </div>
      <NumberField label="Time" unit="s" value={choices.seconds} min={5} max={3600} step={10} digits={0} initial={FIRST_CHOICES.seconds} disabled={disabled || !choices.stopsAtTime} onChange={(seconds) => bench.choose({ seconds })} />
      <Line label="Denoise">
        <Choice
          label="Denoise"
          value={choices.denoise}
          disabled={disabled}
          options={[
            { value: 'all', label: 'Every element', hint: 'Each for itself; they still sum to the beauty' },
            { value: 'beauty', label: 'The beauty', hint: 'Elements keep their noise' },
            { value: 'none', label: 'Nothing' },
          ]}
          onChange={(denoise) => bench.choose({ denoise })}
        />
      </Line>
      <NumberField label="Reach of occlusion" unit="m" value={choices.aoMetres} min={0.1} max={20} step={0.1} digits={1} initial={FIRST_CHOICES.aoMetres} disabled={disabled} onChange={(aoMetres) => bench.choose({ aoMetres })} />
      <NumberField label="Seed" unit="" value={choices.seed} min={1} max={9999} step={1} digits={0} initial={1} disabled={disabled} help="The same seed gives the same noise" onChange={(seed) => bench.choose({ seed: Math.round(seed) })} />
      <div className="py-0.5">
        <Check label="Fog alone, surfaces black" checked={choices.fog} disabled={disabled || !hasFog} onChange={(fog) => bench.choose({ fog })} />
      </div>
      {choices.fog && <p className="text-[12px] text-faint">A set of its own: the light that the fog scatters, and how much of the picture it covers.</p>}
      <Line label="Region">
        <div className="flex gap-1">
          <Button aria-pressed={setsRegion} disabled={disabled} className="flex-1 aria-pressed:border-accent" onClick={() => onSetRegion(!setsRegion)}>
            {setsRegion ? 'Drag on the picture' : region ? `${region.width} × ${region.height}` : 'Draw one …'}
          </Button>
          {region && (
            <Button disabled={disabled} onClick={() => bench.setRegion(null)}>
              Whole
            </Button>
          )}
        </div>
      </Line>
    </Section>
  );
}
