import { behindSource, completeParams, findMaterial, layersInOrder, MATERIAL_ORIGINS, type MaskTerm, type Material, type MaterialOrigin, roleLabel, type TazzelDocument, termSpec } from '@tazzel/core';
import { Crosshair, Paintbrush, X } from 'lucide-react';
import { Button, IconButton } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Chip } from '../ui/chip.tsx';
import { Choice, type ChoiceOption } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { ParamFields } from '../fields/param-fields.tsx';
import { Line } from '../ui/section.tsx';
import { useActions, useDocument, useSession } from '../workspace/context.ts';

interface TermFieldsProps {
  readonly term: MaskTerm;
  readonly maskId: string;
  readonly onChange: (term: MaskTerm, gesture?: string) => void;
}

const origins: Readonly<Record<MaterialOrigin, { label: string; hint: string }>> = {
  auto: { label: 'The best there is', hint: 'Coverage mattes where there are some, else the flat colours' },
  coverage: { label: 'Coverage mattes', hint: 'Exact shares of every pixel, as the renderer counted them' },
  behind: { label: 'Behind glass, mirrored', hint: 'Only where it is seen through others or in them, by the second ID picture' },
  flat: { label: 'Flat colours', hint: 'Shares recovered from the mixed colours along edges' },
};

/** What a line of a recipe says, for changing it: made from the term's declaration. */
export function TermFields({ term, maskId, onChange }: TermFieldsProps) {
  switch (term.kind) {
    case 'material':
      return <MaterialFields term={term} onChange={onChange} />;
    case 'paint':
      return <PaintFields term={term} onChange={onChange} />;
    case 'mask':
      return <ReferenceFields term={term} maskId={maskId} onChange={onChange} />;
    default:
      return (
        <>
          {'sourceId' in term && <ReadsField term={term} onChange={onChange} />}
          <TermParams term={term} onChange={onChange} />
          {(term.kind === 'colour' || term.kind === 'facing' || term.kind === 'depth') && <PickButton kind={term.kind} />}
          {'points' in term && <p className="text-[12px] text-faint">Drag the handles on the picture{term.kind === 'polygon' ? '; a double click on an edge adds a corner, on a corner takes it away' : ''}.</p>}
        </>
      );
  }
}

type WithParams = Extract<MaskTerm, { params: unknown }>;

function TermParams({ term, onChange }: { term: WithParams; onChange: TermFieldsProps['onChange'] }) {
  const { params } = termSpec(term.kind);
  const values = completeParams(termSpec(term.kind), term.params);
  return <ParamFields params={params} values={values} onChange={(patch, gesture) => onChange({ ...term, params: { ...values, ...patch } }, gesture)} />;
}

/** Which element, or the picture after which layer, a term looks at. */
function ReadsField({ term, onChange }: { term: Extract<MaskTerm, { sourceId: unknown }>; onChange: TermFieldsProps['onChange'] }) {
  const document = useDocument();
  const { reads } = termSpec(term.kind);
  if (!reads) return null;
  const fitting = document.sources.filter(({ role }) => reads.any || reads.roles.includes(role));
  const options: ChoiceOption<string>[] = [
    { value: 'usual', label: `Usual: ${reads.roles.slice(0, 2).map((role) => roleLabel(role).toLowerCase()).join(' or ')}` },
    ...fitting.map(({ id, name }) => ({ value: `source ${id}`, label: name, group: 'Elements' })),
    ...(reads.picture ? layersInOrder(document).map(({ layer }) => ({ value: `layer ${layer.id}`, label: layer.name, group: 'The picture after' })) : []),
  ];
  const value = term.layerId !== null ? `layer ${term.layerId}` : term.sourceId !== null ? `source ${term.sourceId}` : 'usual';
  const choose = (next: string) => {
    const [what, id] = [next.slice(0, next.indexOf(' ')), next.slice(next.indexOf(' ') + 1)];
    onChange({ ...term, sourceId: what === 'source' ? id : null, layerId: what === 'layer' ? id : null });
  };
  return (
    <Line label="Reads">
      <Choice label="What the term reads" value={options.some((option) => option.value === value) ? value : 'usual'} options={options} onChange={choose} />
    </Line>
  );
}

function hasBehind(document: TazzelDocument, { sourceId }: Material): boolean {
  const source = document.sources.find(({ id }) => id === sourceId);
  return source !== undefined && behindSource(document, source) !== null;
}

function MaterialFields({ term, onChange }: { term: Extract<MaskTerm, { kind: 'material' }>; onChange: TermFieldsProps['onChange'] }) {
  const document = useDocument();
  const rows = term.materialIds.flatMap((id) => findMaterial(document, id) ?? []);
  const others = document.materials.filter(({ id }) => !term.materialIds.includes(id));
  return (
    <>
      <ul className="mb-1">
        {rows.map((row) => (
          <li key={row.id} className="flex items-center gap-1.5 py-px">
            <Chip color={row.chip} />
            <span className="figure">{row.tag}</span>
            <span className="min-w-0 flex-1 truncate">{row.name === row.tag ? '' : row.name}</span>
            <IconButton label={`Take ${row.name} out`} onClick={() => onChange({ ...term, materialIds: term.materialIds.filter((id) => id !== row.id) })}>
              <X size={12} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
      {others.length > 0 && (
        <Line label="Add">
          <Choice label="Add a material" value="" options={others.map(({ id, tag, name, kind }) => ({ value: id, label: name === tag ? tag : `${tag} ${name}`, group: kind === 'object' ? 'Objects' : 'Materials' }))} onChange={(id) => onChange({ ...term, materialIds: [...term.materialIds, id] })} />
        </Line>
      )}
      {rows.some((row) => row.coverage !== null || hasBehind(document, row)) && (
        <Line label="From">
          <Choice label="Where its coverage is read" value={term.from} options={MATERIAL_ORIGINS.filter((value) => value !== 'behind' || rows.some((row) => hasBehind(document, row))).map((value) => ({ value, ...origins[value] }))} onChange={(from) => onChange({ ...term, from })} />
        </Line>
      )}
    </>
  );
}

function PaintFields({ term, onChange }: { term: Extract<MaskTerm, { kind: 'paint' }>; onChange: TermFieldsProps['onChange'] }) {
  const actions = useActions();
  const { tool, brush } = useSession((state) => state);
  const painting = tool === 'brush';
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
        <Button onClick={() => onChange({ ...term, filled: true, strokes: [] })}>Fill</Button>
        <Button onClick={() => onChange({ ...term, filled: false, strokes: [] })}>Empty</Button>
      </div>
      <p className="mt-1 text-[12px] text-faint">
        {term.strokes.length} stroke{term.strokes.length === 1 ? '' : 's'}. With Shift, a click goes on straight from the last place.
      </p>
    </>
  );
}

function ReferenceFields({ term, maskId, onChange }: { term: Extract<MaskTerm, { kind: 'mask' }>; maskId: string; onChange: TermFieldsProps['onChange'] }) {
  const { masks } = useDocument();
  return (
    <Line label="Mask">
      <Choice label="The mask it refers to" value={term.maskId} options={masks.filter(({ id }) => id !== maskId).map(({ id, name }) => ({ value: id, label: name }))} onChange={(id) => onChange({ ...term, maskId: id })} />
    </Line>
  );
}

const picks = { colour: 'Pick a colour', facing: 'Pick a surface', depth: 'Pick the middle' } as const;

function PickButton({ kind }: { kind: keyof typeof picks }) {
  const actions = useActions();
  const picking = useSession((state) => state.tool === 'pick');
  return (
    <Button aria-pressed={picking} className="mt-1 aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-panel" onClick={() => actions.set({ tool: picking ? 'select' : 'pick' })}>
      <Crosshair size={13} aria-hidden /> {picking ? 'Click in the picture' : picks[kind]}
    </Button>
  );
}
