import { completeParams, defaultsOf, type KeptValues, layersInOrder, LIMITS, millimetresOf, pixelsOf, type FilterId, resamplingFilters, sizeAtLevel, schemeOf, sizeOfWidth, USUAL_NAME } from '@tazzel/core';
import { Cancelled } from '@tazzel/engine';
import { type PictureFormat, pictureFormatById, pictureFormats, PROJECT_EXTENSION, safeName } from '@tazzel/formats';
import { RadioGroup } from 'radix-ui';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { ParamFields } from '../fields/param-fields.tsx';
import { download, saveProject } from '../files.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { keepSetting, setting } from '../storage/database.ts';
import { Button } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { DeliveriesSection } from './deliveries-section.tsx';
import { Fact, Line, Section } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';

const scales = ['Full', 'Half', 'Quarter', 'Eighth'];

interface Choices {
  readonly format: string;
  /** Halvings, or `own` for a width of its own. */
  readonly size: number | 'own';
  readonly width: number;
  readonly filter: FilterId;
  /** Of each format, by its id. */
  readonly values: Readonly<Record<string, KeptValues>>;
}
const FIRST: Choices = { format: pictureFormats[0].id, size: 0, width: 1920, filter: 'lanczos', values: {} };

/** What was kept, as far as it is what it should be: an earlier version kept something else. */
const readChoices = (kept: Partial<Choices>): Choices => {
  const { size, width, filter } = { ...FIRST, ...kept };
  return { ...FIRST, ...kept, values: kept.values ?? {}, size: size === 'own' || scales[size] ? size : 0, width: width >= 1 ? Math.round(width) : FIRST.width, filter: Object.hasOwn(resamplingFilters, filter) ? filter : FIRST.filter };
};

/** Kept values of an earlier version may be others. */
function valuesOf(format: PictureFormat, { values }: Choices): KeptValues {
  try {
    return completeParams(format, values[format.id] ?? {});
  } catch {
    return defaultsOf(format);
  }
}

export function DeliverBench() {
  const { engine } = useWorkspace();
  const document = useDocument();
  const actions = useActions();
  const [choices, setChoices] = useState<Choices>(FIRST);
  const [upto, setUpto] = useState('all');
  const [name, setName] = useState<string | null>(null);
  useEffect(() => void setting<Partial<Choices>>('deliver', FIRST).then((kept) => setChoices(readChoices(kept))), []);
  const choose = (patch: Partial<Choices>) => {
    const next = { ...choices, ...patch };
    setChoices(next);
    keepSetting('deliver', next);
  };
  const format = pictureFormatById(choices.format) ?? pictureFormats[0];
  const values = valuesOf(format, choices);
  const size = choices.size === 'own' ? sizeOfWidth(document.size, choices.width) : sizeAtLevel(document.size, choices.size);
  const layers = layersInOrder(document).map(({ layer }) => layer);
  const until = layers.some((layer) => layer.id === upto) ? upto : 'all';
  const scheme = schemeOf(document, document.schemes.chosenId);
  const suggested = [safeName(document.name), ...(scheme ? [safeName(scheme.name)] : []), ...(until === 'all' ? [] : [`to-${safeName(layers.find((layer) => layer.id === until)?.name ?? '')}`]), `${size.width}x${size.height}`].join('-');
  const stem = name ?? suggested;
  const widest = Math.floor(LIMITS.side * Math.min(1, document.size.width / document.size.height));
  const dpi = typeof values.dpi === 'number' ? values.dpi : 0;

  const deliver = async () => {
    try {
      const fileName = `${safeName(stem)}.${format.endings[0]}`;
      const { parts, problems } = await withProgress('Writing the picture', (report, signal) =>
        engine.deliver({ document, format: format.id, values, ...(choices.size === 'own' ? { resize: { width: choices.width, filter: choices.filter } } : { level: choices.size }), upto: until === 'all' ? undefined : until, signal, onProgress: (share) => report(share, fileName) }),
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
    actions.edit({ type: 'add-delivery', delivery: { name: name ?? USUAL_NAME, format: format.id, values, width: own ? width : null, halvings: own ? 0 : chosen, filter, upto: until === 'all' ? null : until, schemes: 'all' } });
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
        <ParamFields params={format.params} values={values} onChange={(patch) => choose({ values: { ...choices.values, [format.id]: { ...values, ...patch } } })} />
        <Line label="Size">
          <Choice label="Size" value={String(choices.size)} options={[...scales.map((label, level) => ({ value: String(level), label, hint: `${sizeAtLevel(document.size, level).width} × ${sizeAtLevel(document.size, level).height}` })), { value: 'own', label: 'Of its own', hint: 'Any width, in the same proportions' }]} onChange={(chosen) => choose({ size: chosen === 'own' ? 'own' : Number(chosen) })} />
        </Line>
        {choices.size === 'own' && (
          <>
            <NumberField label="Width" value={choices.width} min={1} max={widest} usual={[1, Math.min(widest, 2 * document.size.width)]} step={1} digits={0} unit="px" initial={document.size.width} help="Filtered in light from the full size." onChange={(width) => choose({ width: Math.round(width) })} />
            {dpi > 0 && <NumberField label="Paper width" value={millimetresOf(choices.width, dpi)} min={1} max={millimetresOf(widest, dpi)} usual={[1, 1000]} step={1} digits={1} unit="mm" initial={millimetresOf(document.size.width, dpi)} help="The width at this resolution." onChange={(millimetres) => choose({ width: Math.min(widest, pixelsOf(millimetres, dpi)) })} />}
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
              {size.width} × {size.height}
            </span>
          </Fact>
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
      <Section title="Project file">
        <p className="mb-2 text-faint">The document with its elements, in an open container. Opened elsewhere it gives the same picture, bit for bit.</p>
        <Button className="h-8 w-full" onClick={() => void project()}>
          Save the project file
        </Button>
      </Section>
    </>
  );
}
