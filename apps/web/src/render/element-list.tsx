/** Which elements the render makes. */
import { chooseElements, ELEMENT_SETS, elementHints, elementRows, isInSet, SET_LABELS } from '@tazzel/renderer';
import { useStore } from 'zustand';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { bench } from './bench-store.ts';

const GROUPS: readonly (readonly [string, readonly string[]])[] = [
  ['Beauty', ['beauty', 'denoised-beauty', 'alpha']],
  ['Light', ['direct-lighting', 'gi', 'reflection', 'refraction', 'specular', 'self-illumination', 'background', 'atmosphere', 'shadow', 'light-group']],
  ['Filters and raw light', ['diffuse-filter', 'raw-lighting', 'raw-gi', 'reflection-filter', 'raw-reflection', 'refraction-filter', 'raw-refraction', 'raw-shadow']],
  ['Surfaces and space', ['ambient-occlusion', 'depth', 'depth-normalised', 'distance', 'depth-in-glass-and-mirrors', 'normals', 'position', 'wireframe']],
  ['IDs and mattes', ['material-id', 'object-id', 'material-id-through-glass', 'material-id-in-mirrors', 'rgb-matte', 'crypto-material', 'crypto-object']],
];

export function ElementList({ disabled }: { disabled: boolean }) {
  const scene = useStore(bench.store, (state) => state.scene);
  const { elements, fog } = useStore(bench.store, (state) => state.choices);
  const available = new Set(chooseElements(['everything'], fog));
  const hints = new Map((scene ? elementHints(scene) : []).map(({ element, because }) => [element, because]));
  const missing = [...hints.keys()].filter((id) => available.has(id) && !elements.includes(id));
  const toggle = (id: string, on: boolean) => bench.choose({ elements: elementRows.map((row) => row.id).filter((one) => (one === id ? on : elements.includes(one))) });
  const count = elements.filter((id) => available.has(id)).length;
  return (
    <section aria-label="Elements" className="flex min-h-0 flex-1 flex-col">
      <div className="flex h-[30px] shrink-0 items-center justify-between border-b px-2">
        <h2 className="lettering">Elements</h2>
        <span className="figure text-faint">{count}</span>
      </div>
      <div className="grid shrink-0 grid-cols-2 gap-1 border-b p-2">
        {ELEMENT_SETS.map((set) => {
          const wanted = elementRows.filter((row) => isInSet(row, set)).map(({ id }) => id);
          const isChosen = wanted.length === elements.length && wanted.every((id) => elements.includes(id));
          return (
            <Button key={set} aria-pressed={isChosen} disabled={disabled} className="aria-pressed:border-ink aria-pressed:font-medium" onClick={() => bench.chooseSet(set)}>
              {SET_LABELS[set]}
            </Button>
          );
        })}
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable with the keyboard */}
      <section className="min-h-0 flex-1 overflow-auto pb-2" tabIndex={0} aria-label="Elements, rows">
        {GROUPS.map(([title, ids]) => (
          <section key={title} aria-label={title} className="border-b px-2 pt-1.5 pb-1.5">
            <h3 className="lettering pb-0.5 text-[10px] text-faint">{title}</h3>
            {ids.map((id) => {
              const row = elementRows.find((one) => one.id === id);
              const because = hints.get(id);
              if (!row) return null;
              return (
                <div key={id} className="flex min-h-[21px] items-center justify-between gap-1">
                  <Check label={row.label} checked={elements.includes(id) && available.has(id)} disabled={disabled || !available.has(id)} onChange={(on) => toggle(id, on)} />
                  {because && (
                      <button type="button" data-hint={`The scene calls for it: ${because}.`} aria-label={`${row.label}: the scene calls for it, ${because}`} className={`figure px-1 text-[11px] ${missing.includes(id) ? 'text-warn' : 'text-faint'}`}>
                        {missing.includes(id) ? 'advised' : 'needed'}
                      </button>
                  )}
                </div>
              );
            })}
          </section>
        ))}
      </section>
    </section>
  );
}
