/** What stands over the picture while it is compared, read, or looked at in parts. */
import { findLayer, findSource, groupName, readingById } from '@tazzel/core';
import type { Compare, CompareWith } from '@tazzel/editor';
import { schemesBeside } from '../schemes/names.ts';
import { questions } from '../answers.ts';
import { Choice, type ChoiceOption } from '../ui/choice.tsx';
import { SmallPicture } from '../ui/small-picture.tsx';
import { useActions, usePart, useSession } from '../workspace/context.ts';
import { Corner } from './corner.tsx';

const WORDS: Readonly<Record<Exclude<Compare, 'off'>, string>> = { before: 'Before:', wipe: 'Left of the line:', beside: 'On the left:', difference: 'Differs from' };

const GAINS = [0, 1, 2, 3, 4, 5, 6].map((stops) => ({ value: String(stops), label: `× ${2 ** stops}` }));

/** Kept things that one compares with, by the name of their id. */
const KEPT = { state: 'stateId', source: 'sourceId', scenario: 'scenarioId', scheme: 'schemeId' } as const;
const isKept = (kind: string): kind is keyof typeof KEPT => Object.hasOwn(KEPT, kind);

const optionOf = (compared: CompareWith) => Object.values(compared).join(' ');
function comparedAs(value: string): CompareWith {
  const [kind, id = ''] = value.split(' ', 2);
  if (isKept(kind)) return { kind, [KEPT[kind]]: id } as CompareWith;
  return { kind: kind === 'layer' || kind === 'surface' ? kind : 'base' };
}

/** What the picture is compared with; of a difference also how much it is lightened. */
export function CompareCorner({ compare }: { compare: Exclude<Compare, 'off'> }) {
  const actions = useActions();
  const compareWith = useSession((state) => state.compareWith);
  const stops = useSession((state) => state.differenceStops);
  const hasLayer = useSession((state) => state.selectedLayerId !== null);
  const hasSurface = useSession((state) => state.selectedMaterialIds.length > 0);
  const [states, sources, scenarios, schemes] = [usePart((document) => document.states), usePart((document) => document.sources), usePart((document) => document.light.scenarios), usePart((document) => document.schemes)];
  const options: readonly ChoiceOption<string>[] = [
    { value: 'base', label: 'the base as rendered' },
    ...(hasLayer || compareWith.kind === 'layer' ? [{ value: 'layer', label: 'without the selected layer' }] : []),
    ...(hasSurface || compareWith.kind === 'surface' ? [{ value: 'surface', label: 'without this surface’s corrections' }] : []),
    ...states.map(({ id, name }) => ({ value: `state ${id}`, label: name, group: 'States' })),
    ...schemesBeside(schemes).map(({ id, name }) => ({ value: `scheme ${id ?? ''}`, label: name, group: 'Schemes' })),
    ...scenarios.map(({ id, name }) => ({ value: `scenario ${id}`, label: name, group: 'Lighting' })),
    ...sources.map(({ id, name }) => ({ value: `source ${id}`, label: name, group: 'Elements' })),
  ];
  const value = optionOf(compareWith);
  return (
    <div className="absolute top-2 left-2 flex items-center gap-1.5 border border-ink bg-sheet py-0.5 pr-0.5 pl-2">
      <span className="whitespace-nowrap">{WORDS[compare]}</span>
      <Choice label="Compared with" value={options.some((option) => option.value === value) ? value : 'base'} options={options} onChange={(next) => actions.set({ compareWith: comparedAs(next) })} className="h-[22px] w-[190px]" />
      {compare === 'difference' && <Choice label="Difference lightened" value={String(stops)} options={GAINS} onChange={(next) => actions.set({ differenceStops: Number(next) })} className="h-[22px] w-[70px]" />}
    </div>
  );
}

/** What the colours of a reading mean. */
export function Legend() {
  const reading = useSession((state) => (state.reading === null ? null : readingById(state.reading)));
  if (!reading) return null;
  const css = (color: readonly number[]) => `rgb(${color.map((value) => Math.round(value * 255)).join(' ')})`;
  return (
    <figure aria-label={`Legend: ${reading.label}`} className="pointer-events-none absolute bottom-2 left-1/2 flex -translate-x-1/2 items-stretch border border-ink bg-sheet whitespace-nowrap">
      <figcaption className="lettering self-center px-2 text-[10px]">
        {reading.label}
        {reading.unit ? `, ${reading.unit}` : ''}
      </figcaption>
      {reading.legend.map(({ color, label }) => (
        <span key={label} className="border-l border-rule text-center">
          <span className="block h-3 min-w-8" style={{ background: css(color) }} />
          <span className="figure block px-1 text-[10px]">{label}</span>
        </span>
      ))}
    </figure>
  );
}

/** Which layer, or which lights, are looked at alone. */
export function SoloCorner() {
  const name = useSession(({ soloLayerId, soloLightIds, document }) => {
    if (soloLightIds.length > 0) return soloLightIds.flatMap((id) => findSource(document, id) ?? []).map(groupName).join(', ');
    return soloLayerId === null ? null : findLayer(document, soloLayerId)?.layer.name;
  });
  return name ? <Corner below>Alone: {name}</Corner> : null;
}

const wholePicture: React.ComponentProps<typeof SmallPicture>['question'] = (document) => questions.card(document, {});

/** The whole picture as small as others will first see it. */
export function Thumbnail() {
  const isShown = useSession((state) => state.thumbnail);
  const ratio = usePart(({ size }) => size.width / size.height);
  if (!isShown) return null;
  const width = Math.round(Math.min(160, 160 * ratio));
  return (
    <figure aria-label="The whole picture, small" className="pointer-events-none absolute right-2 bottom-2 border border-ink bg-white p-2">
      <SmallPicture question={wholePicture} style={{ width, height: Math.round(width / ratio), display: 'block' }} />
    </figure>
  );
}

