import { completeParams, type Edit, findMaterial, type KeptValues, layersInOrder, type MaskTerm, type ParamTable, type Reads, roleLabel, type Stroke, strokesOf, termSpec, whyNot } from '@tazzel/core';
import { Paintbrush } from 'lucide-react';
import { PickButton } from '../fields/pick-button.tsx';
import { ParamFields } from '../fields/param-fields.tsx';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice, type ChoiceOption } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Line } from '../ui/section.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';

/** What a line of a recipe says, for changing it: made from the term's declaration. */
export function TermFields({ term, maskId }: { term: MaskTerm; maskId: string }) {
  const document = useDocument();
  const actions = useActions();
  const spec = termSpec(term.type);
  const values = completeParams(spec, term.params);
  const edit = (params: KeptValues): Edit => ({ type: 'set-params', maskId, termId: term.id, params });
  const set = (params: KeptValues, gesture?: string) => void actions.edit(edit(params), gesture);
  const strokes = strokesOf(term);
  // What is painted and what is read have fields of their own.
  const own = Object.fromEntries(Object.entries(spec.params).filter(([name]) => (strokes === null || (name !== strokes && name !== 'filled')) && (!spec.reads || (name !== 'source' && name !== 'after')))) as ParamTable;
  return (
    <>
      {spec.reads && <ReadsField term={term} reads={values as unknown as Reads} onChange={set} />}
      {strokes !== null && <PaintFields strokes={values[strokes] as readonly Stroke[]} onFill={(filled) => set({ filled, [strokes]: [] })} />}
      <ParamFields params={own} values={values} onChange={set} whyNot={(params) => whyNot(document, edit(params))} />
      {spec.pick && <PickButton label={spec.pick.label} />}
    </>
  );
}

/** Which element, or the picture after which layer, a term looks at. */
function ReadsField({ term, reads: { source, after }, onChange }: { term: MaskTerm; reads: Reads; onChange: (params: KeptValues) => void }) {
  const document = useDocument();
  const { reads, params } = termSpec(term.type);
  if (!reads) return null;
  const fitting = document.sources.filter(({ role }) => reads.any || reads.roles.includes(role));
  const options: ChoiceOption<string>[] = [
    { value: 'usual', label: `Usual: ${reads.roles.slice(0, 2).map((role) => roleLabel(role).toLowerCase()).join(' or ')}` },
    ...fitting.map(({ id, name }) => ({ value: `source ${id}`, label: name, group: 'Elements' })),
    ...(reads.picture ? layersInOrder(document).map(({ layer }) => ({ value: `layer ${layer.id}`, label: layer.name, group: 'The picture after' })) : []),
  ];
  const value = after ? `layer ${after}` : source !== '' ? `source ${source}` : 'usual';
  const choose = (next: string) => {
    const [what, id] = [next.slice(0, next.indexOf(' ')), next.slice(next.indexOf(' ') + 1)];
    onChange({ source: what === 'source' ? id : '', ...('after' in params ? { after: what === 'layer' ? id : '' } : {}) });
  };
  return (
    <Line label="Reads">
      <Choice label="What the term reads" value={options.some((option) => option.value === value) ? value : 'usual'} options={options} onChange={choose} />
    </Line>
  );
}

function PaintFields({ strokes, onFill }: { strokes: readonly Stroke[]; onFill: (filled: boolean) => void }) {
  const actions = useActions();
  const painting = useSession((state) => state.tool === 'brush');
  const brush = useSession((state) => state.brush);
  const set = (patch: Partial<typeof brush>) => actions.set({ brush: { ...brush, ...patch } });
  const percent = (label: string, name: 'hardness' | 'opacity' | 'flow', help: string) => <NumberField label={label} value={brush[name] * 100} min={name === 'hardness' ? 0 : 1} max={100} step={5} digits={0} unit="%" initial={name === 'opacity' ? 100 : 50} help={help} onChange={(value) => set({ [name]: value / 100 })} />;
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5 pb-1">
        <Button aria-pressed={painting} className="aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-panel" onClick={() => actions.set({ tool: painting ? 'select' : 'brush' })}>
          <Paintbrush size={13} aria-hidden /> {painting ? 'Painting' : 'Paint'}
        </Button>
        <Check label="Erase" checked={brush.erase} onChange={(erase) => set({ erase })} />
      </div>
      <NumberField label="Size" value={brush.sizePx} min={1} max={2000} usual={[1, 400]} step={5} digits={0} unit="px" initial={100} help="Diameter, in pixels of the full picture" onChange={(sizePx) => set({ sizePx })} />
      {percent('Hardness', 'hardness', 'The share of the radius that is full')}
      {percent('Opacity', 'opacity', 'What a stroke reaches at most')}
      {percent('Flow', 'flow', 'What one dab adds')}
      <NumberField label="Spacing" value={brush.spacing * 100} min={2} max={300} usual={[2, 100]} step={2} digits={0} unit="%" initial={8} help="Distance between dabs, as a share of the size" onChange={(value) => set({ spacing: value / 100 })} />
      <div className="flex flex-wrap gap-1.5 pt-1">
        <Button onClick={() => onFill(true)}>Fill</Button>
        <Button onClick={() => onFill(false)}>Empty</Button>
      </div>
      <p className="mt-1 text-[12px] text-faint">
        {strokes.length} stroke{strokes.length === 1 ? '' : 's'}. With Shift, a click goes on straight from the last place.
      </p>
    </>
  );
}

/** Few words that tell a line from others of its kind: what it names, or its ranges. */
export function lineSummary(term: MaskTerm, document: { readonly masks: readonly { id: string; name: string }[] } & Parameters<typeof findMaterial>[0]): string {
  const spec = termSpec(term.type);
  const values = completeParams(spec, term.params);
  const words = Object.entries(spec.params).flatMap(([name, param]) => {
    const value = values[name];
    switch (param.kind) {
      case 'materials':
        return [(value as readonly string[]).map((id) => findMaterial(document, id)?.name ?? '?').join(', ') || 'none chosen'];
      case 'mask':
        return [document.masks.find(({ id }) => id === value)?.name ?? 'none chosen'];
      case 'strokes':
        return [`${(value as readonly Stroke[]).length} stroke${(value as readonly Stroke[]).length === 1 ? '' : 's'}`];
      default:
        return [];
    }
  });
  // Ends of a band are what it is.
  const numbers = Object.entries(spec.params).flatMap(([name, param]) => (param.kind === 'number' && /^(near|low|far|high)[A-Z]/.test(name) ? [{ value: values[name], unit: param.unit }] : []));
  return [...words, ...(numbers.length === 2 ? [`${numbers[0].value} – ${numbers[1].value} ${numbers[0].unit}`] : [])].join(', ');
}
