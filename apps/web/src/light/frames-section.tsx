/** A short run of pictures in which the light changes: which scenario at which moment, a look at it, and its files. */
import { frameCount, frameDocument, type LightFrames, type LightKey, type Size, secondsOf, type TazzelDocument } from '@tazzel/core';
import { Cancelled, type Engine } from '@tazzel/engine';
import { safeName, zipFiles } from '@tazzel/formats';
import { Play, Plus, Square, X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { download } from '../ui/download.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { Button, IconButton } from '../ui/button.tsx';
import { Choice } from '../ui/choice.tsx';
import { Menu } from '../ui/menu.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Section } from '../ui/section.tsx';
import { useActions, useDocument, useWorkspace } from '../workspace/context.ts';

const PASSAGES = [
  { value: 'fade', label: 'fades in' },
  { value: 'cut', label: 'is there at once' },
] as const;

export function FramesSection() {
  const document = useDocument();
  const actions = useActions();
  const { scenarios, frames } = document.light;
  const set = (patch: Partial<LightFrames>, gesture?: string) => actions.edit({ type: 'set-frames', frames: { ...frames, ...patch } }, gesture);
  const setKey = (at: number, patch: Partial<LightKey>, gesture?: string) => set({ keys: frames.keys.with(at, { ...frames.keys[at], ...patch }) }, gesture);
  const add = () => {
    const used = frames.keys.length;
    set({ keys: [...frames.keys, { seconds: used === 0 ? 0 : secondsOf(frames) + 2, scenarioId: scenarios[used % scenarios.length].id, passage: 'fade' }] });
  };
  const options = scenarios.map(({ id, name }) => ({ value: id, label: name }));
  const count = frameCount(frames);
  return (
    <Section
      title="Frames"
      action={
        <IconButton label="Add a moment" disabled={scenarios.length === 0} onClick={add}>
          <Plus size={13} aria-hidden />
        </IconButton>
      }
    >
      {frames.keys.length === 0 ? (
        <p className="text-[12px] text-faint">{scenarios.length === 0 ? 'Keep some mixes first: frames go from one to the next.' : 'Lamps that go on, dusk that falls: add moments, each with a scenario.'}</p>
      ) : (
        <>
          <ol>
            {frames.keys.map((key, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: moments are known by their order
              <li key={i} aria-label={`Moment ${i + 1}`} className="border-b border-hair py-1 last:border-b-0">
                <div className="flex items-center gap-1">
                  <Choice label={`Scenario of moment ${i + 1}`} value={key.scenarioId} options={options} onChange={(scenarioId) => setKey(i, { scenarioId })} className="h-[22px] flex-1" />
                  {i > 0 && <Choice label={`How moment ${i + 1} comes`} value={key.passage} options={PASSAGES} onChange={(passage) => setKey(i, { passage })} className="h-[22px] w-[96px]" />}
                  <IconButton label={`Remove moment ${i + 1}`} className="!size-[21px]" onClick={() => set({ keys: frames.keys.filter((_, at) => at !== i) })}>
                    <X size={13} aria-hidden />
                  </IconButton>
                </div>
                <NumberField label={`Moment ${i + 1}`} value={key.seconds} min={0} max={600} usual={[0, Math.max(8, secondsOf(frames))]} step={0.25} digits={2} unit="s" initial={0} onChange={(seconds, gesture) => setKey(i, { seconds }, gesture)} />
              </li>
            ))}
          </ol>
          <NumberField label="A second" value={frames.perSecond} min={1} max={120} usual={[1, 30]} step={1} digits={0} unit="fps" initial={12} onChange={(perSecond, gesture) => set({ perSecond: Math.round(perSecond) }, gesture)} />
          <NumberField label="Seed" value={frames.seed} min={0} max={9999} step={1} digits={0} unit="" initial={1} help="Of what flickers: another number, another trembling." onChange={(seed, gesture) => set({ seed: Math.round(seed) }, gesture)} />
          <Player document={document} count={count} />
        </>
      )}
    </Section>
  );
}

/** Frames as small pictures, one after the other; the moment that is held shows in the large picture. */
function Player({ document, count }: { document: TazzelDocument; count: number }) {
  const { engine, session } = useWorkspace();
  const actions = useActions();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [playing, setPlaying] = useState(false);
  const [held, setHeld] = useState(0);
  const { perSecond } = document.light.frames;
  useEffect(() => () => session.actions.set({ lookAt: null }), [session]);
  useEffect(() => {
    if (!playing) return;
    const controller = new AbortController();
    void play(engine, document, count, canvas.current as HTMLCanvasElement, controller.signal)
      .catch((error) => error instanceof Cancelled || showNotes('The frames were not shown', [(error as Error).message]))
      .finally(() => controller.signal.aborted || setPlaying(false));
    return () => controller.abort();
  }, [playing, engine, document, count]);
  const hold = (seconds: number) => {
    const frame = Math.min(count - 1, Math.round(seconds * perSecond));
    setHeld(frame / perSecond);
    actions.set({ lookAt: { label: `Frame ${frame} of ${count}, ${(frame / perSecond).toFixed(2)} s`, document: frameDocument(document, frame) } });
  };
  const ratio = document.size.width / document.size.height;
  return (
    <div className="mt-1.5">
      <canvas ref={canvas} aria-label="Frames" role="img" className={playing ? 'mb-1.5 block w-full border' : 'hidden'} style={{ aspectRatio: String(ratio) }} />
      <NumberField label="Look at" value={Math.min(held, secondsOf(document.light.frames))} min={0} max={Math.max(1 / perSecond, secondsOf(document.light.frames))} step={1 / perSecond} digits={2} unit="s" initial={0} onChange={hold} />
      <div className="mt-1 flex flex-wrap items-center gap-1.5">
        <Button aria-pressed={playing} onClick={() => setPlaying(!playing)}>
          {playing ? <Square size={12} aria-hidden /> : <Play size={13} aria-hidden />} {playing ? 'Stop' : 'Play'}
        </Button>
        <Menu
          trigger={<Button>Save the frames</Button>}
          items={() => [
            { label: 'PNG files in a zip', onSelect: () => void saveFrames(engine, document, count, 'png') },
            { label: 'OpenEXR files in a zip', onSelect: () => void saveFrames(engine, document, count, 'exr') },
            { label: 'Video, as this browser encodes one', disabled: videoType() === null, onSelect: () => void saveVideo(engine, document, count) },
          ]}
        />
        <span className="figure text-[11px] text-faint">{count} frames</span>
      </div>
    </div>
  );
}

const pause = (milliseconds: number) => new Promise((resolve) => setTimeout(resolve, Math.max(0, milliseconds)));

/** All frames once: each when it is due, or when it is computed. */
async function play(engine: Engine, document: TazzelDocument, count: number, canvas: HTMLCanvasElement, signal: AbortSignal): Promise<void> {
  const begun = performance.now();
  for (let frame = 0; frame < count; frame++) {
    draw(canvas, await engine.card(frameDocument(document, frame), {}, signal));
    await pause(begun + ((frame + 1) * 1000) / document.light.frames.perSecond - performance.now());
    if (signal.aborted) return;
  }
}

function draw(canvas: HTMLCanvasElement, { size, rgba }: { size: Size; rgba: Uint8ClampedArray<ArrayBuffer> }): void {
  if (canvas.width !== size.width) canvas.width = size.width;
  if (canvas.height !== size.height) canvas.height = size.height;
  canvas.getContext('2d')?.putImageData(new ImageData(rgba, size.width, size.height), 0, 0);
}

async function saveFrames(engine: Engine, document: TazzelDocument, count: number, format: 'png' | 'exr'): Promise<void> {
  const stem = safeName(document.name);
  try {
    const files = await withProgress('Writing the frames', async (report, signal) => {
      const made: { name: string; parts: Uint8Array[] }[] = [];
      for (let frame = 0; frame < count; frame++) {
        const name = `${stem}.${String(frame).padStart(4, '0')}.${format}`;
        report(frame / count, name);
        made.push({ name, parts: (await engine.deliver({ document: frameDocument(document, frame), format, values: format === 'png' ? { dither: false } : {}, signal })).parts });
      }
      return made;
    });
    download(`${stem}-frames.zip`, [zipFiles(files) as Uint8Array<ArrayBuffer>], 'application/zip');
    toast(`${stem}-frames.zip with ${count} files is in your downloads.`);
  } catch (error) {
    if (!(error instanceof Cancelled)) showNotes('The frames were not written', [(error as Error).message]);
  }
}

/** What this browser encodes a canvas as; null if nothing. */
const videoType = (): string | null => (typeof MediaRecorder === 'undefined' ? null : (['video/webm;codecs=vp9', 'video/webm', 'video/mp4'].find((type) => MediaRecorder.isTypeSupported(type)) ?? null));

/** A recorder takes what is shown in the time in which it is shown: frames are computed first, then played. */
async function saveVideo(engine: Engine, doc: TazzelDocument, count: number): Promise<void> {
  const type = videoType();
  if (type === null) return;
  const stem = safeName(doc.name);
  try {
    const blob = await withProgress('Writing the video', async (report, signal) => {
      const level = Math.max(0, Math.ceil(Math.log2(Math.max(doc.size.width, doc.size.height) / 1920)));
      const pictures: ImageBitmap[] = [];
      for (let frame = 0; frame < count; frame++) {
        report((frame / count) * 0.7, `frame ${frame + 1} of ${count}`);
        const { parts } = await engine.deliver({ document: frameDocument(doc, frame), level, values: { dither: false }, signal });
        pictures.push(await createImageBitmap(new Blob(parts as Uint8Array<ArrayBuffer>[], { type: 'image/png' })));
      }
      const canvas = document.createElement('canvas');
      [canvas.width, canvas.height] = [pictures[0].width, pictures[0].height];
      const recorder = new MediaRecorder(canvas.captureStream(doc.light.frames.perSecond), { mimeType: type, videoBitsPerSecond: 16_000_000 });
      const chunks: Blob[] = [];
      recorder.ondataavailable = ({ data }) => chunks.push(data);
      const stopped = new Promise((resolve) => {
        recorder.onstop = resolve;
      });
      recorder.start();
      const begun = performance.now();
      for (const [frame, picture] of pictures.entries()) {
        canvas.getContext('2d')?.drawImage(picture, 0, 0);
        picture.close();
        report(0.7 + (frame / count) * 0.3, `frame ${frame + 1} of ${count}`);
        await pause(begun + ((frame + 1) * 1000) / doc.light.frames.perSecond - performance.now());
        if (signal.aborted) break;
      }
      recorder.stop();
      await stopped;
      if (signal.aborted) throw new Cancelled();
      return new Blob(chunks, { type });
    });
    const name = `${stem}.${type.includes('mp4') ? 'mp4' : 'webm'}`;
    download(name, [blob], type);
    toast(`${name}, ${(blob.size / 2 ** 20).toFixed(1)} MB, is in your downloads.`);
  } catch (error) {
    if (!(error instanceof Cancelled)) showNotes('The video was not written', [(error as Error).message]);
  }
}
