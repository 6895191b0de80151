/** The render bench: a scene in, its elements out. */
import { Play, Square } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { Link } from 'react-router';
import { useStore } from 'zustand';
import { useShallow } from 'zustand/react/shallow';
import { chosen } from '../files.ts';
import { showNotes, withProgress } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice } from '../ui/choice.tsx';
import { ThemeButton } from '../ui/theme-button.tsx';
import { bench, isBusy } from './bench-store.ts';
import { CameraSection } from './camera-section.tsx';
import { ElementList } from './element-list.tsx';
import { DepthSection, MaterialSection } from './id-sections.tsx';
import { LightSection } from './light-section.tsx';
import { LivePicture } from './live-picture.tsx';
import { QualitySection } from './quality-section.tsx';
import { SaveSection } from './save-section.tsx';

export function RenderPage() {
  // Progress comes many times a second: the page follows only what it shows of it.
  const { scene, problem, views, shown, clean, busy, isDenoised } = useStore(bench.store, useShallow((state) => ({ scene: state.scene, problem: state.problem, views: state.views, shown: state.shown, clean: state.clean, busy: isBusy(state), isDenoised: !isBusy(state) && state.job?.isClean === true })));
  const [full, setFull] = useState(false);
  const [setsRegion, setSetsRegion] = useState(false);
  const sceneFile = useRef<HTMLInputElement>(null);
  useEffect(() => void bench.begin().catch((error: Error) => bench.store.setState({ problem: error.message })), []);
  useEffect(() => {
    document.title = 'Render bench – Tazzel';
    return () => {
      document.title = 'Tazzel';
    };
  }, []);
  const keys = { enableOnFormTags: false, preventDefault: true } as const;
  useHotkeys('mod+enter', () => void (busy ? bench.stop() : bench.render()), { ...keys, enableOnFormTags: true });
  useHotkeys('bracketright', () => bench.flip(1), keys);
  useHotkeys('bracketleft', () => bench.flip(-1), keys);
  useHotkeys('n', () => isDenoised && bench.setClean(!clean), { ...keys, useKey: true });
  useHotkeys('1', () => setFull(true), keys);
  useHotkeys('0', () => setFull(false), keys);

  const openScene = async (files: readonly File[]) => {
    const [file] = files;
    if (!file) return;
    try {
      await withProgress('Opening the scene', async (report) => {
        report(null, file.name);
        await bench.openScene({ file: new Uint8Array(await file.arrayBuffer()), fileName: file.name });
      });
    } catch (error) {
      showNotes('The scene was not opened', [(error as Error).message]);
    }
  };

  return (
    <div className="grid h-full grid-cols-[248px_minmax(0,1fr)_288px] grid-rows-[34px_minmax(0,1fr)_46px]">
      <header className="col-span-3 flex items-center gap-3 border-b border-ink px-2">
        <Link to="/" className="font-semibold tracking-tight hover:underline">
          Tazzel
        </Link>
        <span className="text-faint" aria-hidden>
          /
        </span>
        <h1 className="lettering">Render bench</h1>
        <span className="truncate">{scene?.name ?? (problem ? '' : 'Preparing the scene …')}</span>
        <Button className="ml-auto h-6" disabled={busy} onClick={() => sceneFile.current?.click()}>
          Open a scene file …
        </Button>
        <input ref={sceneFile} type="file" hidden accept=".json,application/json" aria-label="Scene file" onChange={(event) => void openScene(chosen(event.currentTarget))} />
        <ThemeButton />
      </header>

      <aside aria-label="What is rendered" className="flex min-h-0 flex-col border-r border-ink">
        <ElementList disabled={busy} />
      </aside>

      <main className="@container-[size] flex min-h-0 min-w-0 flex-col">
        <div className="flex h-[30px] shrink-0 items-center gap-2 border-b px-2">
          {views.length > 0 ? (
            <>
              <Choice label="Shown element" className="w-56" value={String(shown)} options={views.map(({ label }, i) => ({ value: String(i), label }))} onChange={(value) => bench.show(Number(value))} />
              <Button className="h-6 px-2" aria-label="Element before" title="[" onClick={() => bench.flip(-1)}>
                ‹
              </Button>
              <Button className="h-6 px-2" aria-label="Next element" title="]" onClick={() => bench.flip(1)}>
                ›
              </Button>
              <span title="N">
                <Check label="Without noise" checked={clean && isDenoised} disabled={!isDenoised} onChange={(on) => bench.setClean(on)} />
              </span>
            </>
          ) : (
            <span className="text-faint">{scene ? `${scene.objects.length} objects, ${scene.materials.length} materials, ${scene.lamps.length} lamps` : ''}</span>
          )}
          <span className="ml-auto flex gap-1">
            <Button look="quiet" className="h-6" aria-pressed={!full} title="0" onClick={() => setFull(false)}>
              Fit
            </Button>
            <Button look="quiet" className="h-6" aria-pressed={full} title="1" onClick={() => setFull(true)}>
              100 %
            </Button>
          </span>
        </div>
        {problem && (
          <p role="alert" className="max-h-40 shrink-0 overflow-auto border-b bg-sheet px-3 py-1.5 whitespace-pre-wrap text-warn">
            {problem}
          </p>
        )}
        <div className="@container-size flex min-h-0 flex-1">
          <LivePicture full={full} setsRegion={setsRegion} onRegionSet={() => setSetsRegion(false)} />
        </div>
      </main>

      <aside aria-label="How it is rendered" className="min-h-0 overflow-auto border-l border-ink">
        <CameraSection disabled={busy} />
        <QualitySection disabled={busy} setsRegion={setsRegion} onSetRegion={setSetsRegion} />
        <SaveSection disabled={busy} />
        <LightSection />
        <DepthSection />
        <MaterialSection />
      </aside>

      <ProgressStrip canStart={scene !== null} />
    </div>
  );
}

const clock = (seconds: number) => (seconds < 60 ? `${Math.ceil(seconds)} s` : `${Math.floor(seconds / 60)} min ${String(Math.floor(seconds % 60)).padStart(2, '0')} s`);

function ProgressStrip({ canStart }: { canStart: boolean }) {
  const state = useStore(bench.store);
  const { progress, job } = state;
  const busy = isBusy(state);
  const words = !progress
    ? 'Nothing rendered yet'
    : progress.stage === 'done'
      ? `Done after ${clock(progress.seconds)}${job?.endedEarly ? ', stopped before the noise limit' : ''}`
      : progress.stage === 'denoising'
        ? 'Taking the noise out'
        : progress.secondsLeft === null
          ? 'Rendering'
          : `Rendering, ${clock(progress.secondsLeft)} left`;
  return (
    <footer className="col-span-3 flex items-center gap-4 border-t border-ink bg-sheet px-3">
      <Button look={busy ? 'plain' : 'main'} className="h-8 w-36" disabled={!canStart} title="Ctrl+Enter" onClick={() => (busy ? bench.stop() : void bench.render())}>
        {busy ? <Square size={12} aria-hidden /> : <Play size={14} aria-hidden />}
        {!busy ? 'Start the render' : progress?.stage === 'denoising' ? 'Go without' : 'Stop and keep'}
      </Button>
      <div className="min-w-0 flex-1">
        <div role="status" className="truncate">
          {words}
        </div>
        <div role="progressbar" aria-label="Render" aria-valuemin={0} aria-valuemax={100} aria-valuenow={Math.round((progress?.share ?? 0) * 100)} className="mt-1 h-1 bg-hair">
          <div className="h-full bg-accent" style={{ width: `${(progress?.share ?? 0) * 100}%` }} />
        </div>
      </div>
      <dl className="figure flex gap-4 text-faint">
        <div className="flex gap-1.5">
          <dt>samples</dt>
          <dd className="w-12 text-right text-ink">{progress ? progress.samplesPerPixel.toFixed(1) : '—'}</dd>
        </div>
        <div className="flex gap-1.5">
          <dt>noise</dt>
          <dd className="w-14 text-right text-ink">{progress?.noisePercent == null ? '—' : `${progress.noisePercent.toFixed(1)} %`}</dd>
        </div>
      </dl>
    </footer>
  );
}
