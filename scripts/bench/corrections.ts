/** Corrections: each loop against a copy of the same numbers, several in a row, local ones over their width, and scopes. */
import { applyEdit, completeParams, type Correction, correctionById, corrections, type KeptValues, sizeAtLevel, type TazzelDocument, tilesOf } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import type { Kernels } from '@tazzel/kernels';
import { costOf, flattened, median, report, timed } from './measure.ts';

/** What the shared tests run that does something, as a typical use. */
const usual = (correction: Correction): KeptValues => correction.examples.find((params) => !correction.isNoOp(params)) ?? correction.examples[0];

/** Every point correction over as many pixels as the picture has, in spans, against a copy of the same numbers. */
function loops(kernels: Kernels, width: number, height: number): void {
  const size = { width, height };
  const registers = () => [kernels.register(), kernels.register(), kernels.register()] as const;
  const [color, place] = [registers(), [kernels.register(), kernels.register()] as const];
  const light = Float32Array.from({ length: kernels.spanLength }, (_, i) => ((i * 2654435761) % 1000) / 700);
  const spans = Math.ceil((width * height) / kernels.spanLength);
  // From memory to memory, as everything that works on a whole picture has to do at least.
  const [from, to] = [0, 1].map(() => new Float32Array(3 * width * height).fill(0.5));
  const copyAll = () => to.set(from);
  const into = () => {
    for (let span = 0; span < spans; span++) for (const register of color) register.values.set(light);
  };
  const rows: { id: string; ratio: number; ours: number; theirs: number }[] = [];
  for (const correction of corrections) {
    if (correction.work !== 'points') continue;
    const prepared = correction.prepare(completeParams(correction, usual(correction)), size);
    const others = (correction.reads ?? []).map(registers);
    for (const other of others) for (const register of other) register.values.set(light);
    const all = () => {
      for (let span = 0; span < spans; span++) {
        for (const register of color) register.values.set(light);
        kernels.correct({ type: correction.id, prepared, tableKey: `bench ${correction.id}` }, color, kernels.spanLength, place, others, 1);
      }
    };
    all();
    const [ours, theirs, filled]: number[][] = [[], [], []];
    for (let i = 0; i < 3; i++) {
      let start = performance.now();
      all();
      ours.push(performance.now() - start);
      start = performance.now();
      copyAll();
      theirs.push(performance.now() - start);
      start = performance.now();
      into();
      filled.push(performance.now() - start);
    }
    const own = Math.max(0, median(ours) - median(filled));
    rows.push({ id: correction.id, ours: own, theirs: median(theirs), ratio: own / median(theirs) });
  }
  rows.sort((a, b) => a.ratio - b.ratio);
  console.log(`(p) a correction of ${width} × ${height} in one worker : copying the same numbers`);
  for (const { id, ours, theirs, ratio } of rows) console.log(`    ${id.padEnd(24)} ${ours.toFixed(0).padStart(5)} ms ${theirs.toFixed(0).padStart(5)} ms   ratio ${ratio.toFixed(1)}`);
}

const withTop = (document: TazzelDocument, id: string, params: KeptValues): TazzelDocument => {
  const added = applyEdit(document, { type: 'add-correction-layer', correction: id, zone: 'scene' });
  return applyEdit(added, { type: 'set-params', layerId: added.buildUp.scene.at(-1)?.id ?? '', params });
};

/** @param plain one element of light */
export async function benchCorrections(engine: Engine, plain: TazzelDocument, kernels: Kernels, width: number, height: number): Promise<void> {
  loops(kernels, width, height);
  let fresh = 0;
  const moved = (document: TazzelDocument) => applyEdit(document, { type: 'set-layer', layerId: document.buildUp.scene[0].id, patch: { opacity: 1 - ++fresh * 1e-7 } });
  const deliver = (document: TazzelDocument) => timed(() => flattened(engine, { document: moved(document), kind: 'float' }));
  const over = async (document: TazzelDocument, rounds = 3) => {
    const [whole, nothing]: number[][] = [[], []];
    for (let i = 0; i < rounds; i++) {
      nothing.push(await deliver(plain));
      whole.push(await deliver(document));
    }
    return Math.max(1, median(whole) - median(nothing));
  };
  await deliver(plain);
  // With what is read and written in any case, as one waits for it; in turns, because machines have moods.
  const eight = ['exposure', 'white-balance', 'contrast', 'vibrance', 'hue-saturation', 'hue-families', 'cdl', 'channel-mix'];
  const each = eight.map((id) => withTop(plain, id, usual(correctionById(id))));
  const all = eight.reduce((document, id) => withTop(document, id, usual(correctionById(id))), plain);
  const documents = [plain, ...each, all];
  const times: number[][] = documents.map(() => []);
  for (let i = 0; i < 5; i++) for (const [n, document] of documents.entries()) times[n].push(await deliver(document));
  const [nothing, ...singles] = times.map(median);
  const together = singles.pop() ?? 0;
  const dearest = Math.max(...singles);
  report(`(q) eight corrections in a row : the dearest of them (${eight[singles.indexOf(dearest)]})`, { ours: together, theirs: dearest, ratio: together / dearest }, 2);
  console.log(`    the picture without any ${nothing.toFixed(0)} ms; the eight beyond that ${(together - nothing).toFixed(0)} ms, apart ${singles.reduce((sum, time) => sum + time - nothing, 0).toFixed(0)} ms`);
  for (const [id, what, small, large] of [
    ['shadows-highlights', 'width 0.3 % : 6 %', { shadowsStops: 1, widthPercent: 0.3 }, { shadowsStops: 1, widthPercent: 6 }],
    ['local-contrast', 'size 0.05 % : 0.8 %', { finePercent: 30, mediumPercent: 20, coarsePercent: 10, sizePercent: 0.05 }, { finePercent: 30, mediumPercent: 20, coarsePercent: 10, sizePercent: 0.8 }],
    ['sharpen', 'radius 2 px : 20 px', { amountPercent: 80, radiusPx: 2 }, { amountPercent: 80, radiusPx: 20 }],
  ] as const) {
    const [ours, theirs] = [await over(withTop(plain, id, large)), await over(withTop(plain, id, small))];
    report(`(r) ${id}, ${what}, the large over the small`, { ours, theirs, ratio: ours / theirs }, 1.3);
  }
  const gaussian = await over(withTop(plain, 'gaussian-blur', { sigmaPx: 40 }));
  for (const [id, params] of [['glow', { amountPercent: 20 }], ['tilt-blur', { sigmaPercent: 0.74 }]] as const) {
    const spread = await over(withTop(plain, id, params));
    report(`(r) ${id} : one Gaussian, σ 40 px`, { ours: spread, theirs: gaussian, ratio: spread / gaussian }, 4);
  }
  const noise = await over(withTop(plain, 'noise-reduction', { strengthPercent: 60, reachPx: 14 }));
  const half = await over(withTop(plain, 'noise-reduction', { strengthPercent: 60, reachPx: 2 }));
  report('(r) noise reduction in three passes : in one', { ours: noise, theirs: half, ratio: noise / half }, 3.3);

  // As one works: the picture at fit, and the scopes of the same state beside it. What counts is what they cost, on however many cores.
  const tiles = tilesOf(sizeAtLevel(plain.size, 2));
  for (const [what, document] of [['one layer', plain], ['one layer under eight corrections', all]] as const) {
    const [frames, scopes]: number[][] = [[], []];
    for (let i = 0; i < 21; i++) {
      const state = moved(document);
      frames.push(await costOf(() => engine.render({ document: state, level: 2, tiles, onTile: () => undefined })));
      scopes.push(await costOf(() => engine.scopes(state, 'picture')));
    }
    report(`(s) scopes of ${what} : a frame of it at ${width / 4} × ${height / 4}, what both cost`, { ours: median(scopes), theirs: median(frames), ratio: median(scopes) / median(frames) }, 0.1);
  }
}
