/** The picture as it comes in: drawn tile by tile, only as much in a frame as a frame has time for. */
import type { Region } from '@tazzel/core';
import { displayElement } from '@tazzel/renderer';
import { useEffect, useRef, useState } from 'react';
import { useStore } from 'zustand';
import { bench } from './bench-store.ts';

const STEP = 96;
const FRAME_MILLISECONDS = 9;

class LivePainter {
  #dirty = new Map<string, Region>();
  #frame = 0;
  readonly #context: CanvasRenderingContext2D | null;

  constructor(readonly canvas: HTMLCanvasElement) {
    this.#context = canvas.getContext('2d', { alpha: true });
  }

  mark(region: Region | null): void {
    const { job } = bench.store.getState();
    if (!job) return;
    const { width, height } = job.request;
    if (region === null) {
      this.#dirty.clear();
      if (this.canvas.width !== width || this.canvas.height !== height) {
        this.canvas.width = width;
        this.canvas.height = height;
      }
    }
    const { x, y, width: w, height: h } = region ?? job.region;
    for (let ty = Math.floor(y / STEP); ty * STEP < y + h; ty++) {
      for (let tx = Math.floor(x / STEP); tx * STEP < x + w; tx++) {
        const part = { x: Math.max(tx * STEP, job.region.x), y: Math.max(ty * STEP, job.region.y) };
        const right = Math.min(tx * STEP + STEP, job.region.x + job.region.width);
        const bottom = Math.min(ty * STEP + STEP, job.region.y + job.region.height);
        if (right > part.x && bottom > part.y) this.#dirty.set(`${tx} ${ty}`, { ...part, width: right - part.x, height: bottom - part.y });
      }
    }
    if (this.#frame === 0) this.#frame = requestAnimationFrame(() => this.#paint());
  }

  clear(): void {
    this.#context?.clearRect(0, 0, this.canvas.width, this.canvas.height);
  }

  #paint(): void {
    this.#frame = 0;
    const { views, shown, clean } = bench.store.getState();
    const rendering = bench.rendering();
    const view = views[shown];
    if (!rendering || !view || !this.#context) return;
    const gains = bench.gains();
    const start = performance.now();
    for (const [key, region] of this.#dirty) {
      this.#dirty.delete(key);
      this.#context.putImageData(new ImageData(displayElement(rendering, view, clean, region, gains), region.width, region.height), region.x, region.y);
      if (performance.now() - start > FRAME_MILLISECONDS) break;
    }
    if (this.#dirty.size > 0) this.#frame = requestAnimationFrame(() => this.#paint());
    this.canvas.dataset.drawn = this.#dirty.size === 0 ? `${view.element} ${view.index} ${clean ? 'clean' : 'noisy'}` : '';
  }

  stop(): void {
    cancelAnimationFrame(this.#frame);
  }
}

interface LivePictureProps {
  readonly full: boolean;
  /** Whether dragging on the picture sets the region. */
  readonly setsRegion: boolean;
  readonly onRegionSet: () => void;
}

export function LivePicture({ full, setsRegion, onRegionSet }: LivePictureProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const job = useStore(bench.store, (state) => state.job);
  const choices = useStore(bench.store, (state) => state.choices);
  const region = useStore(bench.store, (state) => state.region);
  const label = useStore(bench.store, ({ views, shown }) => views[shown]?.label ?? 'Nothing rendered yet');
  const [draft, setDraft] = useState<Region | null>(null);
  const from = useRef<{ x: number; y: number } | null>(null);

  useEffect(() => {
    if (!canvas.current) return;
    const painter = new LivePainter(canvas.current);
    painter.mark(null);
    const stop = bench.onTiles((tile) => painter.mark(tile));
    return () => {
      stop();
      painter.stop();
    };
  }, []);
  // A new render begins on an empty sheet.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the job's identity is what matters
  useEffect(() => {
    const element = canvas.current;
    if (element) element.getContext('2d')?.clearRect(0, 0, element.width, element.height);
  }, [job]);

  const width = job?.request.width ?? choices.width;
  const height = job?.request.height ?? choices.height;
  const at = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: Math.min(choices.width, Math.max(0, Math.round(((event.clientX - box.left) / box.width) * choices.width))), y: Math.min(choices.height, Math.max(0, Math.round(((event.clientY - box.top) / box.height) * choices.height))) };
  };
  const shown = draft ?? region;
  const share = (value: number, of: number) => `${(value / of) * 100}%`;
  return (
    <div className={`relative min-h-0 flex-1 bg-field ${full ? 'overflow-auto' : 'grid place-items-center overflow-hidden'}`}>
      <div
        className="relative"
        style={full ? { width, height } : { aspectRatio: `${width} / ${height}`, width: `min(100cqw - 48px, (100cqh - 48px) * ${width / height})` }}
        onPointerDown={(event) => {
          if (!setsRegion || event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          from.current = at(event);
        }}
        onPointerMove={(event) => {
          if (!from.current) return;
          const to = at(event);
          setDraft({ x: Math.min(from.current.x, to.x), y: Math.min(from.current.y, to.y), width: Math.abs(to.x - from.current.x), height: Math.abs(to.y - from.current.y) });
        }}
        onPointerUp={() => {
          if (from.current && draft && draft.width >= 8 && draft.height >= 8) bench.setRegion(draft);
          from.current = null;
          setDraft(null);
          if (setsRegion) onRegionSet();
        }}
      >
        <canvas ref={canvas} width={width} height={height} role="img" aria-label={label} className={`absolute inset-0 size-full bg-black/10 ${setsRegion ? 'cursor-crosshair' : ''}`} />
        {shown && <div aria-hidden className="pointer-events-none absolute border border-dashed border-white outline outline-black" style={{ left: share(shown.x, choices.width), top: share(shown.y, choices.height), width: share(shown.width, choices.width), height: share(shown.height, choices.height) }} />}
      </div>
      {!job && (
        <p className="pointer-events-none absolute max-w-sm text-center text-white" style={{ textShadow: '0 0 4px #000' }}>
          Choose a camera, tick the elements, then start the render. The picture comes in from the middle outwards.
        </p>
      )}
    </div>
  );
}
