/** Light mixes and relit elements: sums that must hold, whatever the gains. Linearity of light is the source; the floor under divisions is our own. */
import { describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { seeded } from '../../../../tests/random.ts';
import { mixedGroups } from '../light/board.ts';
import { FLOOR } from '../light/relit.ts';
import { emptyDocument, type TazzelDocument } from '../model/model.ts';
import { floatToHalf, halfToFloat } from '../raster/half.ts';
import type { Plane } from '../raster/planes.ts';
import type { SourceView } from '../raster/view.ts';
import type { Backend } from './backend.ts';
import { planDocument } from './plan.ts';
import { referenceBackend } from './reference.ts';
import { lightOf } from './targets.ts';

const SIZE = { width: 40, height: 30 };
const AREA = SIZE.width * SIZE.height;
const plane = (data: readonly number[]): Plane => ({ type: 'f16', ...SIZE, data: Uint16Array.from(data, floatToHalf) });
const valuesOf = (view: SourceView, channel: number) => Array.from(view.color[channel].data, (half) => halfToFloat(half));

/** Light split two ways: by three groups and by four elements, the last of which is filter × raw. Some pixels hold no light at all, some none in one channel. */
function scene(seed: number) {
  const random = seeded(seed);
  const lights = Array.from({ length: 3 }, () => [0, 1, 2].map((c) => Array.from({ length: AREA }, (_, i) => (i % 17 === 0 || (c === 2 && i % 5 === 0) ? 0 : random() ** 3 * 4))));
  const shares = Array.from({ length: 4 }, () => Array.from({ length: AREA }, () => random()));
  const filter = [0, 1, 2].map(() => Array.from({ length: AREA }, () => 0.1 + random() * 0.8));
  const beauty = [0, 1, 2].map((c) => lights[0][c].map((_, i) => lights.reduce((sum, light) => sum + light[c][i], 0)));
  const share = (k: number, i: number) => shares[k][i] / shares.reduce((sum, each) => sum + each[i], 0);
  const view = (channels: readonly (readonly number[])[]): SourceView => ({ color: channels.map(plane), alpha: null, premultiplied: false, x: 0, y: 0 });
  const element = (k: number) => beauty.map((channel) => channel.map((light, i) => light * share(k, i)));
  const views: Record<string, SourceView> = {
    'source-1': view(beauty),
    'source-2': view(lights[0]),
    'source-3': view(lights[1]),
    'source-4': view(lights[2]),
    'source-5': view(element(0)),
    'source-6': view(element(1)),
    'source-7': view(element(2)),
    'source-8': view(filter),
    'source-9': view(element(3).map((channel, c) => channel.map((light, i) => light / filter[c][i]))),
  };
  const roles = ['beauty', 'light-group', 'light-group', 'light-group', 'direct-lighting', 'specular', 'self-illumination', 'reflection-filter', 'raw-reflection'] as const;
  const sources = roles.map((role, i) => source(i + 1, { role, name: `${role} ${i + 1}`, ...SIZE }));
  const document = after(emptyDocument('doc', 'Relit', SIZE), { type: 'add-sources', sources }, { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' });
  return { document, views };
}

const { document: base, views } = scene(21);
const lightIn = (document: TazzelDocument, backend: Backend = referenceBackend(), from: Record<string, SourceView> = views, level = 0) => {
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: lightOf(plan), source: (id: string) => from[id], mask: () => { throw new Error('There are no masks.'); }, backend, level } as never);
  return [0, 1, 2, 3].map((channel) => [...pixels.planes.subarray(channel * AREA, (channel + 1) * AREA)]);
};
const expected = (document: TazzelDocument, from: Record<string, SourceView> = views) =>
  [0, 1, 2].map((c) => {
    const sum = new Array<number>(AREA).fill(0);
    for (const { source: group, gain } of mixedGroups(document)) for (const [i, light] of valuesOf(from[group.id], c).entries()) sum[i] += gain[c] * light;
    return sum;
  });

const mixed = (document: TazzelDocument, seed: number): TazzelDocument => {
  const random = seeded(seed);
  return after(
    document,
    { type: 'learn-lights', own: [2, 3, 4].map((n) => ({ sourceId: `source-${n}`, color: [0.5 + random(), 0.5 + random(), 0.5 + random()] })) },
    ...[2, 3, 4].map((n) => ({ type: 'set-params' as const, lightId: `source-${n}`, params: { on: random() > 0.2, intensityStops: random() * 8 - 4, takes: random() > 0.5 ? 'chosen' : 'rendered', color: [0.2 + random(), 0.2 + random(), 0.2 + random()] as const } })),
  );
};

describe('a light mix', () => {
  const withMix = after(base, { type: 'add-light-mix' });
  it('takes the place of the beauty and is the sum of all groups; the beauty waits, off', () => {
    expect(withMix.buildUp.scene.map((layer) => [layer.name, layer.visible])).toEqual([['beauty 1', false], ['Light mix', true]]);
    const [r, g, b, alpha] = lightIn(withMix);
    for (const [c, channel] of [r, g, b].entries()) expectClose(channel, expected(withMix)[c], 1e-6);
    expect(alpha.every((value) => value === 1)).toBe(true);
  });
  it('is Σ group × gain for any gains, with the kernels as with the definitions (seeds 1–6)', async () => {
    const kernels = await builtKernels();
    for (let seed = 1; seed <= 6; seed++) {
      const document = mixed(withMix, seed);
      for (const backend of [referenceBackend(), kernels]) for (const [c, channel] of lightIn(document, backend).slice(0, 3).entries()) expectClose(channel, expected(document)[c], 2e-6, `seed ${seed}`);
    }
  });
  it('reads groups of other sizes where they lie, in other numbers, and of one channel', () => {
    const odd: TazzelDocument = after(withMix, { type: 'set-source', sourceId: 'source-2', patch: { x: 10, y: -3 } }, { type: 'set-source', sourceId: 'source-3', patch: { scale: 2, offset: 0.25 } });
    const from = { ...views, 'source-2': { ...views['source-2'], x: 10, y: -3 }, 'source-4': { ...views['source-4'], color: [views['source-4'].color[1]] } };
    const got = lightIn(odd, referenceBackend(), from);
    for (const c of [0, 1, 2]) {
      for (const [x, y] of [[0, 0], [12, 4], [39, 29], [25, 27]]) {
        const i = y * SIZE.width + x;
        const inside = x >= 10 && y + 3 < SIZE.height;
        const first = inside ? valuesOf(views['source-2'], c)[(y + 3) * SIZE.width + x - 10] : 0;
        expectClose([got[c][i]], [first + 2 * valuesOf(views['source-3'], c)[i] + 0.25 + valuesOf(views['source-4'], 1)[i]], 1e-5);
      }
    }
  });
  it('bad numbers stay where they are and gains of a million are finite', () => {
    const bad = Uint16Array.from(views['source-2'].color[0].data as Uint16Array);
    [bad[7], bad[8], bad[9]] = [0x7e00, 0x7c00, 0xfc00];
    const from = { ...views, 'source-2': { ...views['source-2'], color: [{ ...views['source-2'].color[0], data: bad }, ...views['source-2'].color.slice(1)] } };
    const wild = after(withMix, { type: 'set-params', lightId: 'source-2', params: { intensityStops: 20 } });
    const [red] = lightIn(wild, referenceBackend(), from);
    expect(red.every(Number.isFinite)).toBe(true);
    expectClose([red[7]], [expected(wild, from)[0][7] || valuesOf(views['source-3'], 0)[7] + valuesOf(views['source-4'], 0)[7]], 1e-5);
    expectClose([red[8]], [65504 * 2 ** 20], 1e-3);
  });
  it('shows a scenario that was kept, whatever the board is set to; one that is gone is named', () => {
    const kept = after(mixed(withMix, 3), { type: 'keep-scenario', name: 'Evening' }, { type: 'switch-lights', on: false });
    const [scenario] = kept.light.scenarios;
    const shown = after(kept, { type: 'set-params', layerId: 'layer-2', params: { scenario: scenario.id } });
    for (const [c, channel] of lightIn(shown).slice(0, 3).entries()) expectClose(channel, expected(mixed(withMix, 3))[c], 2e-6);
    expect(() => after(shown, { type: 'remove-scenario', scenarioId: scenario.id })).toThrow('The layer “Light mix” shows it.');
    expect(planDocument({ ...shown, light: { ...shown.light, scenarios: [] } }).problems).toEqual(['Light mix: the scenario that it shows is gone. Choose another one.']);
  });
  it('a group that is off is not read, one that is denoised is smoothed alone', () => {
    const off = after(withMix, { type: 'set-params', lightId: 'source-3', params: { on: false } });
    expect(planDocument(off).sources).not.toContain('source-3');
    const smooth = after(withMix, { type: 'set-params', lightId: 'source-3', params: { denoisePercent: 60 } });
    const random = seeded(12);
    const grain = plane(Array.from({ length: AREA }, () => 0.8 + random() * 0.4));
    const from = { ...views, 'source-3': { ...views['source-3'], color: [grain, grain, grain] } };
    const [grainy] = lightIn(withMix, referenceBackend(), from);
    const [red] = lightIn(smooth, referenceBackend(), from);
    const others = valuesOf(views['source-2'], 0).map((light, i) => light + valuesOf(views['source-4'], 0)[i]);
    const spread = (list: readonly number[]) => list.slice(1).reduce((sum, value, i) => sum + (value - others[i + 1] - list[i] + others[i]) ** 2, 0);
    expect(spread(red)).toBeLessThan(0.3 * spread(grainy));
  });
});

describe('relit elements', () => {
  const split = after(base, { type: 'split-light', by: 'elements' });
  it('are a group of their own beside the mix, which waits; what was done to either stays', () => {
    expect(split.buildUp.scene.map((layer) => [layer.name, layer.visible])).toEqual([['beauty 1', false], ['Light mix', false], ['Elements, relit', true]]);
    const corrected = after(split, { type: 'add-chain-correction', layerId: split.buildUp.scene[1].id, correction: 'exposure' });
    const there = after(corrected, { type: 'split-light', by: 'lights' }, { type: 'split-light', by: 'elements' });
    expect(there).toEqual(corrected);
  });
  it('sum to the relit beauty for any gains, also where there is no light to divide by (seeds 1–8)', async () => {
    const kernels = await builtKernels();
    for (let seed = 1; seed <= 8; seed++) {
      const document = mixed(split, seed);
      for (const backend of [referenceBackend(), kernels]) for (const [c, channel] of lightIn(document, backend).slice(0, 3).entries()) expectClose(channel, expected(document)[c], 5e-6, `seed ${seed}`);
    }
  });
  it('each is its share of the relit picture', () => {
    const document = mixed(split, 4);
    const group = document.buildUp.scene[2];
    if (group.kind !== 'group') throw new Error('It is a group.');
    const [red] = lightIn({ ...document, buildUp: { scene: group.layers.filter(({ name }) => name.startsWith('specular')), picture: [] } });
    const [sum, own] = [valuesOf(views['source-1'], 0), valuesOf(views['source-6'], 0)];
    const relit = expected(document)[0];
    for (let i = 0; i < AREA; i++) if (sum[i] > 0.01) expectClose([red[i]], [(own[i] / sum[i]) * relit[i]], 2e-3);
  });
  it('light of groups where the elements are black is spread evenly over them', () => {
    const dark = { ...views, ...Object.fromEntries([5, 6, 7, 9].map((n) => [`source-${n}`, { ...views['source-5'], color: views['source-5'].color.map((each) => ({ ...each, data: new Uint16Array(AREA) })) }])) };
    const group = split.buildUp.scene[2];
    if (group.kind !== 'group') throw new Error('It is a group.');
    const parts = group.layers.filter(({ kind }) => kind === 'picture').map((layer) => lightIn({ ...split, buildUp: { scene: [layer], picture: [] } }, referenceBackend(), dark)[0]);
    for (const part of parts) expectClose(part, expected(split)[0].map((light) => light / 3), 1e-5);
    expect(FLOOR).toBeLessThan(1 / 65_536);
  });
  it('say why they cannot be lit: no groups, or no part in the sum', () => {
    const alone = after(base, { type: 'remove-source', sourceId: 'source-2' }, { type: 'remove-source', sourceId: 'source-3' }, { type: 'remove-source', sourceId: 'source-4' });
    expect(() => after(alone, { type: 'set-params', layerId: 'layer-1', params: { isRelit: true } })).toThrow('beauty 1: the document has no light groups. Add those elements of the render.');
    expect(() => after(base, { type: 'set-params', layerId: 'layer-1', params: { isRelit: true } })).toThrow('it is not among the elements that add up to the beauty');
    expect(() => after(alone, { type: 'add-light-mix' })).toThrow('no light groups');
  });
});
