import { type Cut, CUT_LIMITS, cutRegion, type FilterId, isPart, type PartCut, partOfRegion, layersInOrder, LIMITS, millimetresOf, pixelsOf, resamplingFilters, schemeOf, type Size, sizeOfDelivery, USUAL_CUTS, USUAL_NAME } from '@tazzel/core';
import { Cancelled } from '@tazzel/engine';
import { pictureFormatById, pictureFormats, PROJECT_EXTENSION, safeName } from '@tazzel/formats';
import { RadioGroup } from 'radix-ui';
import { useState } from 'react';
import { toast } from 'sonner';
import { ParamFields } from '../fields/param-fields.tsx';
import { saveProject } from '../files.ts';
import { download } from '../ui/download.ts';
import { questions, useAnswer } from '../answers.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { choose, scales, useChoices, valuesOf, withValues } from './choices.ts';
import { ReviewSection } from '../review/review-section.tsx';
import { DeliveriesSection } from './deliveries-section.tsx';
import { Fact, Line, Section } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';

const sizeText = ({ width, height }: Size) => `${width} × ${height}`;
const PROPORTIONS = [{ value: 'none', label: 'As it is' }, { value: 'part', label: 'A part of it', hint: 'Dragged on the picture' }, ...Object.keys(USUAL_CUTS).map((label) => ({ value: label, label }))];
/** What a part begins with. */
const FIRST_PART: PartCut = { leftPercent: 20, topPercent: 20, widthPercent: 60, heightPercent: 60 };
/** One that is none of the usual ones is of an earlier version. */
const proportionOf = (cut: Cut | null) => (cut && isPart(cut) ? 'part' : (Object.entries(USUAL_CUTS).find(([, ratio]) => cut && Math.abs(ratio - cut.ratio) < 1e-6)?.[0] ?? 'none'));
const cutFrom = (chosen: string, before: Cut | null): Cut | null => (chosen === 'none' ? null : chosen === 'part' ? FIRST_PART : { ratio: USUAL_CUTS[chosen], shiftPercent: before && !isPart(before) ? before.shiftPercent : 0 });

export function DeliverBench() {
  const { engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const choices = useChoices();
  const [upto, setUpto] = useState('all');
  const [name, setName] = useState<string | null>(null);
  const format = pictureFormatById(choices.format) ?? pictureFormats[0];
  const values = valuesOf(format, choices);
  const { cut } = choices;
  const whole = cutRegion(document.size, cut);
  const size = sizeOfDelivery(document, { cut, width: choices.size === 'own' ? choices.width : null, halvings: choices.size === 'own' ? 0 : choices.size });
  const layers = layersInOrder(document).map(({ layer }) => layer);
  const until = layers.some((layer) => layer.id === upto) ? upto : 'all';
  const scheme = schemeOf(document, document.schemes.chosenId);
  const suggested = [safeName(document.name), ...(scheme ? [safeName(scheme.name)] : []), ...(until === 'all' ? [] : [`to-${safeName(layers.find((layer) => layer.id === until)?.name ?? '')}`]), `${size.width}x${size.height}`].join('-');
  const stem = name ?? suggested;
  const widest = Math.floor(LIMITS.side * Math.min(1, whole.width / whole.height));
  const highest = Math.max(1, Math.floor((widest * whole.height) / whole.width));
  const widthFor = (height: number) => Math.min(widest, Math.max(1, Math.round((height * whole.width) / whole.height)));
  const dpi = typeof values.dpi === 'number' ? values.dpi : 0;

  const deliver = async () => {
    try {
      const fileName = `${safeName(stem)}.${format.endings[0]}`;
      const { parts, problems } = await withProgress('Writing the picture', (report, signal) =>
        engine.deliver({ document, format: format.id, values, ...(choices.size === 'own' ? { resize: { width: choices.width, filter: choices.filter } } : { level: choices.size }), cut, upto: until === 'all' ? undefined : until, signal, onProgress: (share) => report(share, fileName) }),
      );
      download(fileName, parts as Uint8Array<ArrayBuffer>[], format.mimeType);
      const bytes = parts.reduce((sum, part) => sum + part.length, 0);
      toast(`${fileName}, ${(bytes / 2 ** 20).toFixed(1)} MB, is in your downloads.`);
      showNotes('Delivered, with remarks', problems);
    } catch (error) {
      if (!(error instanceof Cancelled)) showNotes('The picture was not written', [(error as Error).message]);
    }
  };
  const keep = () => {
    const { size: chosen, width, filter } = choices;
    const own = chosen === 'own';
    actions.edit({ type: 'add-delivery', delivery: { name: name ?? USUAL_NAME, format: format.id, values, width: own ? width : null, halvings: own ? 0 : chosen, filter, cut, upto: until === 'all' ? null : until, schemes: 'all' } });
  };
  const project = async () => {
    try {
      const { missing } = await withProgress('Writing the project file', (report) => {
        report(null, `${safeName(document.name)}.${PROJECT_EXTENSION}`);
        return saveProject(engine, document);
      });
      showNotes('Saved with gaps', missing);
    } catch (error) {
      showNotes('The project file was not written', [(error as Error).message]);
    }
  };

  return (
    <>
      <Section title="Picture">
        <RadioGroup.Root aria-label="Format" value={format.id} onValueChange={(id) => choose({ format: id })} className="mb-1 grid grid-cols-2 gap-px border bg-rule">
          {pictureFormats.map(({ id, label }) => (
            <RadioGroup.Item key={id} value={id} className="bg-panel px-2 py-1.5 text-left font-medium whitespace-nowrap hover:bg-sheet data-[state=checked]:bg-sheet last:odd:col-span-2 data-[state=checked]:shadow-[inset_0_-3px_0_var(--accent)]">
              {label}
            </RadioGroup.Item>
          ))}
        </RadioGroup.Root>
        <p className="mb-2 text-[12px] text-faint">{format.hint}</p>
        <ParamFields params={format.params} values={values} onChange={(patch) => choose(withValues(choices, format, patch))} />
        <Line label="Proportions">
          <Choice label="Proportions" value={proportionOf(cut)} options={PROPORTIONS} onChange={(chosen) => choose({ cut: cutFrom(chosen, cut) })} />
        </Line>
        {cut && isPart(cut) && <PartFields part={cut} size={document.size} />}
        {cut && !isPart(cut) && <NumberField label="Moved" value={cut.shiftPercent} min={CUT_LIMITS.shiftPercent[0]} max={CUT_LIMITS.shiftPercent[1]} step={1} digits={0} unit="%" initial={0} help="Where the part lies: from the left or upper end over the middle to the other." onChange={(shiftPercent) => choose({ cut: { ...cut, shiftPercent } })} />}
        <Line label="Size">
          <Choice label="Size" value={String(choices.size)} options={[...scales.map((label, level) => ({ value: String(level), label, hint: sizeText(sizeOfDelivery(document, { cut, width: null, halvings: level })) })), { value: 'own', label: 'Of its own', hint: 'Any width, in the same proportions' }]} onChange={(chosen) => choose({ size: chosen === 'own' ? 'own' : Number(chosen) })} />
        </Line>
        {choices.size === 'own' && (
          <>
            <NumberField label="Width" value={choices.width} min={1} max={widest} usual={[1, Math.min(widest, 2 * whole.width)]} step={1} digits={0} unit="px" initial={whole.width} help="Filtered in light from the full size." onChange={(width) => choose({ width: Math.round(width) })} />
            <NumberField label="Height" value={size.height} min={1} max={highest} usual={[1, Math.min(highest, 2 * whole.height)]} step={1} digits={0} unit="px" initial={whole.height} help="The width follows in the same proportions." onChange={(height) => choose({ width: widthFor(height) })} />
            {dpi > 0 && <NumberField label="Paper width" value={millimetresOf(choices.width, dpi)} min={1} max={millimetresOf(widest, dpi)} usual={[1, 1000]} step={1} digits={1} unit="mm" initial={millimetresOf(whole.width, dpi)} help="The width at this resolution." onChange={(millimetres) => choose({ width: Math.min(widest, pixelsOf(millimetres, dpi)) })} />}
            {dpi > 0 && <NumberField label="Paper height" value={millimetresOf(size.height, dpi)} min={1} max={millimetresOf(highest, dpi)} usual={[1, 1000]} step={1} digits={1} unit="mm" initial={millimetresOf(whole.height, dpi)} help="The height at this resolution." onChange={(millimetres) => choose({ width: widthFor(pixelsOf(millimetres, dpi)) })} />}
            <Line label="Filter">
              <Choice label="Filter" value={choices.filter} options={Object.entries(resamplingFilters).map(([id, { label, hint }]) => ({ value: id, label, hint }))} onChange={(filter) => choose({ filter: filter as FilterId })} />
            </Line>
          </>
        )}
        <Line label="Up to">
          <Choice label="Up to" value={until} options={[{ value: 'all', label: 'The finish' }, ...layers.toReversed().map(({ id, name: layerName }) => ({ value: id, label: layerName, group: 'Layers' }))]} onChange={setUpto} />
        </Line>
        <Line label="File name">
          <input aria-label="File name" className="field w-full" value={stem} onChange={(event) => setName(event.currentTarget.value)} onBlur={() => stem.trim() === '' && setName(null)} />
        </Line>
        <dl className="py-1">
          <Fact label="Pixels">
            <span className="figure">
              {sizeText(size)}
            </span>
          </Fact>
          <CutColours upto={until === 'all' ? undefined : until} />
          {dpi > 0 && (
            <Fact label="On paper">
              <span className="figure">
                {millimetresOf(size.width, dpi).toFixed(1)} × {millimetresOf(size.height, dpi).toFixed(1)} mm
              </span>
            </Fact>
          )}
        </dl>
        <div className="mt-1 flex gap-1.5">
          <Button look="main" className="h-8 flex-1" onClick={() => void deliver()}>
            Save the picture
          </Button>
          <Button className="h-8" onClick={keep} title="In this form, of each scheme">
            Keep in the list
          </Button>
        </div>
      </Section>
      <DeliveriesSection />
      <ReviewSection />
      <Section title="Project file">
        <p className="mb-2 text-faint">The document with its elements, in an open container. Opened elsewhere it gives the same picture, bit for bit.</p>
        <Button className="h-8 w-full" onClick={() => void project()}>
          Save the project file
        </Button>
      </Section>
    </>
  );
}

/** How much of the picture has colours that no space holds in which it is delivered: they end at the edge of sRGB, whichever is chosen. */
function CutColours({ upto }: { readonly upto: string | undefined }) {
  const document = useDocument();
  const { data } = useAnswer(questions.measure(document, { upto }, 'picture'), { keeps: ([what]) => what === 'measure' });
  if (!data || data.cutShare < 0.0005) return null;
  return (
    <Fact label="Cut colours">
      <span title="Brighter or purer than sRGB can hold: some channels end there and others do not. “Clipping” over the picture shows where.">
        <span className="figure">{(100 * data.cutShare).toFixed(1)} %</span> of the pixels
      </span>
    </Fact>
  );
}

/** Where a part lies, in pixels of the picture. */
function PartFields({ part, size }: { readonly part: PartCut; readonly size: Size }) {
  const { x, y, width, height } = cutRegion(size, part);
  const set = (patch: Partial<Record<'x' | 'y' | 'width' | 'height', number>>) => {
    const wanted = { x, y, width, height, ...patch };
    const [left, top] = [Math.min(size.width - 1, Math.round(wanted.x)), Math.min(size.height - 1, Math.round(wanted.y))];
    choose({ cut: partOfRegion(size, { x: left, y: top, width: Math.min(size.width - left, Math.round(wanted.width)), height: Math.min(size.height - top, Math.round(wanted.height)) }) });
  };
  const field = (label: string, value: number, min: number, max: number, initial: number, help: string, onChange: (value: number) => void) => <NumberField label={label} value={value} min={min} max={max} step={1} digits={0} unit="px" initial={initial} help={help} onChange={onChange} />;
  return (
    <>
      {field('From the left', x, 0, size.width - 1, 0, 'Where the part begins. Its corners can be dragged on the picture.', (value) => set({ x: value }))}
      {field('From the top', y, 0, size.height - 1, 0, 'Where the part begins.', (value) => set({ y: value }))}
      {field('Part, across', width, 1, size.width, size.width, 'How wide the part is, in the full picture.', (value) => set({ width: value }))}
      {field('Part, down', height, 1, size.height, size.height, 'How high the part is, in the full picture.', (value) => set({ height: value }))}
    </>
  );
}
