import { layersInOrder, sizeAtLevel } from '@tazzel/core';
import { Cancelled, type DeliverFormat } from '@tazzel/engine';
import { type ExrWriteCompression, PROJECT_EXTENSION, safeName } from '@tazzel/formats';
import { RadioGroup } from 'radix-ui';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { download, saveProject } from '../files.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { keepSetting, setting } from '../storage/database.ts';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice } from '../ui/choice.tsx';
import { Fact, Line, Section } from '../ui/section.tsx';
import { useDocument, useWorkspace } from '../workspace/context.ts';

const formats: readonly { id: DeliverFormat; label: string; hint: string; ending: 'png' | 'exr' }[] = [
  { id: 'png8', label: 'PNG, 8 bit', hint: 'The finished picture, sRGB.', ending: 'png' },
  { id: 'png16', label: 'PNG, 16 bit', hint: 'The same for more work elsewhere.', ending: 'png' },
  { id: 'exr-half', label: 'OpenEXR, half', hint: 'Scene light, linear, unclamped.', ending: 'exr' },
  { id: 'exr-float', label: 'OpenEXR, float', hint: 'The same in 32 bits.', ending: 'exr' },
];
const packings: readonly { value: ExrWriteCompression; label: string; hint: string }[] = [
  { value: 'ZIP', label: 'ZIP', hint: 'Sixteen lines at a time; the usual one' },
  { value: 'ZIPS', label: 'ZIPS', hint: 'Line by line' },
  { value: 'PIZ', label: 'PIZ', hint: 'Smaller for noisy light' },
  { value: 'RLE', label: 'RLE', hint: 'Fast, for flat colours' },
  { value: 'NONE', label: 'None', hint: 'Not packed' },
];
const mimeTypes = { png: 'image/png', exr: 'image/x-exr' } as const;
const scales = ['Full', 'Half', 'Quarter', 'Eighth'];

interface Choices {
  readonly format: DeliverFormat;
  readonly level: number;
  readonly dither: boolean;
  readonly packing: ExrWriteCompression;
}
const FIRST: Choices = { format: 'png8', level: 0, dither: true, packing: 'ZIP' };

export function DeliverBench() {
  const { engine } = useWorkspace();
  const document = useDocument();
  const [choices, setChoices] = useState<Choices>(FIRST);
  const [upto, setUpto] = useState('all');
  const [name, setName] = useState<string | null>(null);
  useEffect(() => void setting<Partial<Choices>>('deliver', FIRST).then((kept) => setChoices({ ...FIRST, ...kept })), []);
  const choose = (patch: Partial<Choices>) => {
    const next = { ...choices, ...patch };
    setChoices(next);
    keepSetting('deliver', next);
  };
  const format = formats.find(({ id }) => id === choices.format) ?? formats[0];
  const size = sizeAtLevel(document.size, choices.level);
  const layers = layersInOrder(document).map(({ layer }) => layer);
  const until = layers.some((layer) => layer.id === upto) ? upto : 'all';
  const suggested = [safeName(document.name), ...(until === 'all' ? [] : [`to-${safeName(layers.find((layer) => layer.id === until)?.name ?? '')}`]), `${size.width}x${size.height}`].join('-');
  const stem = name ?? suggested;

  const deliver = async () => {
    try {
      const fileName = `${safeName(stem)}.${format.ending}`;
      const { parts, problems } = await withProgress('Writing the picture', (report, signal) =>
        engine.deliver({ document, format: format.id, level: choices.level, dither: choices.dither, compression: choices.packing, upto: until === 'all' ? undefined : until, signal, onProgress: (share) => report(share, fileName) }),
      );
      download(fileName, parts as Uint8Array<ArrayBuffer>[], mimeTypes[format.ending]);
      const bytes = parts.reduce((sum, part) => sum + part.length, 0);
      toast(`${fileName}, ${(bytes / 2 ** 20).toFixed(1)} MB, is in your downloads.`);
      showNotes('Delivered with gaps', problems);
    } catch (error) {
      if (!(error instanceof Cancelled)) showNotes('The picture was not written', [(error as Error).message]);
    }
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
        <RadioGroup.Root aria-label="Format" value={choices.format} onValueChange={(id) => choose({ format: id as DeliverFormat })} className="mb-2 border">
          {formats.map(({ id, label, hint }) => (
            <RadioGroup.Item key={id} value={id} className="block w-full border-b px-2 py-1 text-left last:border-0 hover:bg-sheet data-[state=checked]:bg-sheet data-[state=checked]:shadow-[inset_3px_0_0_var(--accent)]">
              <span className="block font-medium">{label}</span>
              <span className="block text-[12px] text-faint">{hint}</span>
            </RadioGroup.Item>
          ))}
        </RadioGroup.Root>
        <Line label="Size">
          <Choice label="Size" value={String(choices.level)} options={scales.map((label, level) => ({ value: String(level), label, hint: `${sizeAtLevel(document.size, level).width} × ${sizeAtLevel(document.size, level).height}` }))} onChange={(level) => choose({ level: Number(level) })} />
        </Line>
        <Line label="Up to">
          <Choice label="Up to" value={until} options={[{ value: 'all', label: 'The finish' }, ...layers.toReversed().map(({ id, name: layerName }) => ({ value: id, label: layerName, group: 'Layers' }))]} onChange={setUpto} />
        </Line>
        {choices.format === 'png8' && (
          <div className="py-1">
            <Check label="Dither, against banding in skies" checked={choices.dither} onChange={(dither) => choose({ dither })} />
          </div>
        )}
        {format.ending === 'exr' && (
          <Line label="Packing">
            <Choice label="Packing" value={choices.packing} options={packings} onChange={(packing) => choose({ packing })} />
          </Line>
        )}
        <Line label="File name">
          <input aria-label="File name" className="field w-full" value={stem} onChange={(event) => setName(event.currentTarget.value)} onBlur={() => stem.trim() === '' && setName(null)} />
        </Line>
        <dl className="py-1">
          <Fact label="Pixels">
            <span className="figure">
              {size.width} × {size.height}
            </span>
          </Fact>
        </dl>
        <Button look="main" className="mt-1 h-8 w-full" onClick={() => void deliver()}>
          Save the picture
        </Button>
      </Section>
      <Section title="Project file">
        <p className="mb-2 text-faint">The document with its elements, in an open container. Opened elsewhere it gives the same picture, bit for bit.</p>
        <Button className="h-8 w-full" onClick={() => void project()}>
          Save the project file
        </Button>
      </Section>
    </>
  );
}
