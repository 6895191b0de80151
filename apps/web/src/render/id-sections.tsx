/** Numbers and colours of materials, and the depth range. */
import { colorOfNumber, FIRST_RANGE } from '@tazzel/renderer';
import { useStore } from 'zustand';
import { Button } from '../ui/button.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Section } from '../ui/section.tsx';
import { bench } from './bench-store.ts';

const hex = (color: readonly number[]) => `#${color.map((v) => Math.round(v * 255).toString(16).padStart(2, '0')).join('')}`;
const rgb = (text: string): [number, number, number] => [1, 3, 5].map((at) => Number.parseInt(text.slice(at, at + 2), 16) / 255) as [number, number, number];

export function MaterialSection() {
  const scene = useStore(bench.store, (state) => state.scene);
  const labels = useStore(bench.store, (state) => state.choices.labels);
  if (!scene) return null;
  const set = (name: string, patch: { number?: number; idColor?: [number, number, number] | null }) => bench.choose({ labels: { ...labels, [name]: { ...labels[name], ...patch } } });
  return (
    <Section
      title="Material numbers and colours"
      action={
        Object.keys(labels).length > 0 && (
          <Button className="h-5 text-[11px]" onClick={() => bench.choose({ labels: {} })}>
            As in the scene
          </Button>
        )
      }
    >
      <p className="pb-1 text-[12px] text-faint">Materials with the same number select as one.</p>
      <ul>
        {scene.materials.map((material) => {
          const { number = material.number, idColor = material.idColor } = labels[material.name] ?? {};
          return (
            <li key={material.name} className="grid grid-cols-[minmax(0,1fr)_52px_30px] items-center gap-1.5 border-b py-px">
              <span className="truncate" title={material.name}>
                {material.name}
              </span>
              <input type="number" aria-label={`Number of ${material.name}`} min={0} max={65535} step={1} value={number} className="field figure w-full text-right" onChange={(event) => {
                const next = Math.round(event.currentTarget.valueAsNumber);
                if (next >= 0 && next <= 65535) set(material.name, { number: next });
              }} />
              <input type="color" aria-label={`Colour of ${material.name}`} title={idColor ? 'Set by hand; a double click takes the colour of the number' : 'The colour of the number'} value={hex(idColor ?? colorOfNumber(number))} className="h-5 w-full border border-rule" onDoubleClick={() => set(material.name, { idColor: null })} onChange={(event) => set(material.name, { idColor: rgb(event.currentTarget.value) })} />
            </li>
          );
        })}
      </ul>
    </Section>
  );
}

export function DepthSection() {
  const range = useStore(bench.store, (state) => state.choices.depthRange);
  const suggested = useStore(bench.store, (state) => state.suggestedRange);
  const shown = range ?? suggested ?? FIRST_RANGE;
  const metres = (v: number) => (v < 10 ? v.toFixed(1) : v.toFixed(0));
  return (
    <Section
      title="Depth range"
      action={
        range && (
          <Button className="h-5 text-[11px]" onClick={() => bench.choose({ depthRange: null })}>
            Take the suggestion
          </Button>
        )
      }
    >
      <p className="pb-1 text-[12px] text-faint">{suggested ? `The surfaces seen reach from ${metres(suggested.near)} to ${metres(suggested.far)} m.` : 'A suggestion comes with the first samples of a render that has depth.'}</p>
      <NumberField label="White at" unit="m" value={shown.near} min={0} max={500} step={0.5} digits={1} initial={suggested?.near ?? 0} onChange={(near) => bench.choose({ depthRange: { near, far: Math.max(near + 0.1, shown.far) } })} />
      <NumberField label="Black at" unit="m" value={shown.far} min={0.1} max={2000} step={1} digits={1} initial={suggested?.far ?? 100} onChange={(far) => bench.choose({ depthRange: { near: Math.min(shown.near, far - 0.1), far } })} />
    </Section>
  );
}
