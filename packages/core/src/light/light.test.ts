import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { after, source } from '../../../../tests/documents.ts';
import { seeded } from '../../../../tests/random.ts';
import { kelvinToLinearSrgb } from '../color/kelvin.ts';
import { luminanceOf } from '../color/luminance.ts';
import { temperatureOf } from '../color/locus.ts';
import { emptyDocument, type TazzelDocument } from '../model/model.ts';
import type { Triple } from '../vector.ts';
import { blended, groupsOf, lampGains, mixedGroups, rowsOf, settingFor, settingOf, soloOf, withSetting } from './board.ts';
import { lightsFile, mixFor, readLights } from './file.ts';
import { frameCount, frameDocument, mixAt } from './frames.ts';
import { AS_RENDERED, chromatic, gainOf, MOST_COLOUR_GAIN, recoloured } from './group.ts';
import { groupName, instancesIn, lightKind } from './names.ts';
import { lightStarts, startMix } from './starts.ts';

const groups = (...names: readonly string[]): TazzelDocument =>
  after(emptyDocument('doc', 'Lights', { width: 8, height: 6 }), { type: 'add-sources', sources: names.map((name, i) => source(i + 1, { role: 'light-group', name })) });
const yard = groups('light_group_sun', 'light_group_environment', 'light_group_interior_lamps', 'light_group_rest');
const gains = (document: TazzelDocument) => mixedGroups(document).map(({ gain }) => gain);

describe('gains', () => {
  it('twice the watts is one step of exposure value, and off is nothing', () => {
    // ISO 2720:1974: one EV is a factor of two in light.
    expect(gainOf({ ...AS_RENDERED, intensityStops: 1 }, null)).toEqual([2, 2, 2]);
    expect(gainOf({ ...AS_RENDERED, intensityStops: -3 }, [2, 1, 0.1])).toEqual([0.125, 0.125, 0.125]);
    expect(gainOf({ ...AS_RENDERED, on: false, intensityStops: 4 }, null)).toEqual([0, 0, 0]);
  });
  it('another colour keeps the luminance of the light, whatever the brightness of the swatch', () => {
    const own = kelvinToLinearSrgb(3200);
    for (const wanted of [kelvinToLinearSrgb(5000), [0.02, 0.02, 0.02], [900, 700, 800]] as Triple[]) {
      const gain = gainOf({ ...AS_RENDERED, takes: 'chosen', color: wanted }, own);
      const light = own.map((value, c) => value * gain[c]);
      expectClose([luminanceOf(light)], [luminanceOf(own)], 1e-12);
      expectClose(chromatic(light as unknown as Triple) as Triple, chromatic(wanted) as Triple, 1e-12);
    }
  });
  it('colour temperatures are those of Planck’s law, scaled to the largest channel', () => {
    // Planck’s law with the CIE 1931 observer (CIE 15:2004), relative linear sRGB; the cubic fit of Kim et al. 2002 lies within 6e-4 in x and y of it.
    const published: readonly (readonly [number, Triple])[] = [[2700, [1, 0.4153, 0.0992]], [4000, [1, 0.6534, 0.3772]], [6504, [1, 0.9429, 0.9928]], [10_000, [0.6095, 0.6952, 1]]];
    for (const [kelvin, rgb] of published) {
      const light = gainOf({ ...AS_RENDERED, takes: 'chosen', color: kelvinToLinearSrgb(kelvin) as Triple }, null);
      expectClose(light.map((value) => value / Math.max(...light)), rgb, 6e-3);
    }
    // 15 000 K: x .26370, y .26728 by the same source; read back from the light as a temperature.
    expect(Math.abs((temperatureOf('glow', gainOf({ ...AS_RENDERED, takes: 'chosen', color: kelvinToLinearSrgb(15_000) as Triple }, null))?.kelvin ?? 0) - 15_000)).toBeLessThan(150);
  });
});

describe('what a lamp can become', () => {
  const orange: Triple = [2.4, 0.66, 0.02];
  it('says which channel is short of light and what it would cost; the hue is kept, the light becomes darker', () => {
    const { gain, channel, wantedStops, costStops, darkerStops, lacks } = recoloured(orange, [0, 0, 1]);
    expect([channel, lacks]).toEqual([2, []]);
    expect(Math.max(...gain)).toBe(MOST_COLOUR_GAIN);
    expect(costStops).toBe(4);
    expectClose([wantedStops - darkerStops], [4], 1e-9);
    expect(darkerStops).toBeGreaterThan(4);
  });
  it('names the colour that is nearest as bright as rendered: between the two, and within what channels give', () => {
    const { nearest } = recoloured(orange, [0, 0, 1]);
    const own = chromatic(orange) as Triple;
    expectClose([luminanceOf(nearest)], [1], 1e-9);
    expectClose([nearest[2] / own[2]], [MOST_COLOUR_GAIN], 1e-9);
    expect(nearest[0]).toBeLessThan(own[0]);
  });
  it('a lamp near white can become any colour that is not deeper than 4 stops', () => {
    const random = seeded(5);
    for (let i = 0; i < 100; i++) {
      const wanted: Triple = [0.2 + random(), 0.2 + random(), 0.2 + random()];
      const { darkerStops, nearest, lacks } = recoloured([1, 0.95, 0.9], wanted);
      expect([darkerStops, lacks]).toEqual([-0, []]);
      expectClose(nearest, chromatic(wanted) as Triple, 1e-12);
    }
  });
  it('light that was not rendered cannot be made', () => {
    const { gain, lacks, nearest } = recoloured([1, 0.5, 0], [0.2, 0.2, 1]);
    expect(lacks).toEqual([2]);
    expect([gain[2], nearest[2]]).toEqual([0, 0]);
    expect(gain.every(Number.isFinite)).toBe(true);
    expect(recoloured([0, 0, 0], [1, 1, 1]).gain).toEqual([1, 1, 1]);
    expect(recoloured([Number.NaN, 1, 1], [0, 0, 0]).gain).toEqual([1, 1, 1]);
  });
});

describe('mixes', () => {
  it('keep what differs from the render and nothing else', () => {
    const changed = after(yard, { type: 'set-params', lightId: 'source-1', params: { intensityStops: 2 } }, { type: 'set-params', lightId: 'source-3', params: { on: false } });
    expect(changed.light.mix).toEqual([{ sourceId: 'source-1', params: { intensityStops: 2 } }, { sourceId: 'source-3', params: { on: false } }]);
    expect(after(changed, { type: 'set-params', lightId: 'source-1', params: { intensityStops: 0 } }, { type: 'set-params', lightId: 'source-3', params: { on: true } }).light.mix).toEqual([]);
  });
  it('intensities and colours go back apart (P5)', () => {
    const night = after(yard, { type: 'begin-mix', start: 'night' });
    const brightness = after(night, { type: 'reset-lights', what: 'intensity' });
    expect(brightness.light.mix.map(({ params }) => Object.keys(params).sort())).toEqual([['color', 'takes'], ['color', 'takes']]);
    expect(after(brightness, { type: 'reset-lights', what: 'colour' }).light.mix).toEqual([]);
    expect(after(night, { type: 'reset-lights', what: 'all', sourceId: 'source-1' }).light.mix.map(({ sourceId }) => sourceId)).toEqual(['source-2', 'source-3']);
    expect(gains(after(yard, { type: 'switch-lights', on: false })).flat().every((gain) => gain === 0)).toBe(true);
  });
  it('gains of a million are kept, and more is held there', () => {
    const wild = after(yard, { type: 'set-params', lightId: 'source-1', params: { intensityStops: 1e9 } });
    expect(gains(wild)[0]).toEqual([2 ** 20, 2 ** 20, 2 ** 20]);
  });
  it('between two mixes light is cross-faded: gains are means, and settings that say so', () => {
    const own: TazzelDocument = after(yard, { type: 'learn-lights', own: [{ sourceId: 'source-3', color: kelvinToLinearSrgb(3000) as Triple }] });
    const kept = after(own, { type: 'begin-mix', start: 'night' }, { type: 'keep-scenario', name: 'Night' }, { type: 'begin-mix', start: 'clear-day' }, { type: 'keep-scenario', name: 'Day' });
    const [night, day] = kept.light.scenarios;
    for (const share of [0, 0.25, 0.5, 1]) {
      const between = mixedGroups(kept, blended(kept, night.mix, day.mix, share));
      for (const [i, { gain }] of between.entries()) {
        const [a, b] = [mixedGroups(kept, night.mix)[i].gain, mixedGroups(kept, day.mix)[i].gain];
        expectClose(gain, a.map((value, c) => (1 - share) * value + share * b[c]), 1e-9);
      }
    }
    expect(after(kept, { type: 'blend-scenarios', fromId: night.id, toId: day.id, share: 7 }).light.mix).toEqual(day.mix);
  });
  it('a setting stands for any gain (seed 8)', () => {
    const random = seeded(8);
    for (let i = 0; i < 200; i++) {
      const own: Triple = [0.2 + random(), 0.2 + random(), 0.2 + random()];
      const gain: Triple = [random() * 4, random() * 4, random() * 4];
      expectClose(gainOf(settingFor(gain, own), own), gain, 1e-9);
    }
    expect(settingFor([0, 0, 0], null).on).toBe(false);
  });
  it('one group alone leaves its own setting', () => {
    const solo = soloOf(after(yard, { type: 'set-params', lightId: 'source-2', params: { intensityStops: 1 } }), ['source-2']);
    expect(gains(solo)).toEqual([[0, 0, 0], [2, 2, 2], [0, 0, 0], [0, 0, 0]]);
  });
});

describe('linked groups', () => {
  it('take the same switch and colour, and are changed by as many stops', () => {
    const linked = after(yard, { type: 'set-params', lightId: 'source-3', params: { intensityStops: 1 } }, { type: 'link-lights', sourceIds: ['source-3', 'source-4'] }, { type: 'set-params', lightId: 'source-4', params: { intensityStops: 2, takes: 'chosen' } });
    expect([settingOf(linked.light.mix, 'source-3'), settingOf(linked.light.mix, 'source-4')]).toMatchObject([{ intensityStops: 3, takes: 'chosen' }, { intensityStops: 2, takes: 'chosen' }]);
    expect(rowsOf(linked).map((row) => row.map(({ id }) => id))).toEqual([['source-1'], ['source-2'], ['source-3', 'source-4']]);
    expect(after(linked, { type: 'unlink-lights', sourceId: 'source-3' }).light.links).toEqual([]);
  });
  it('instances of a lamp are one row from the start, and split', () => {
    const lamps = groups('LightGroup_pendant_1', 'LightGroup_pendant_2', 'lg_sun', 'LightGroup_pendant_3');
    expect(instancesIn(lamps.sources)).toEqual([['source-1', 'source-2', 'source-4']]);
    const mixed = after(lamps, { type: 'add-light-mix' });
    expect(rowsOf(mixed)).toHaveLength(2);
    expect(rowsOf(after(mixed, { type: 'unlink-lights', sourceId: 'source-2' }))).toHaveLength(4);
  });
});

describe('names', () => {
  it('lose what says that it is a group, and tell its kind', () => {
    expect(['light_group_interior_lamps', 'yard.LightGroup_Sun', 'lg_key', 'LightSelect.env', 'rest', 'light group background', 'light_group'].map((name) => groupName({ name }))).toEqual(['Interior lamps', 'Sun', 'Key', 'Env', 'Rest', 'Background', 'Light group']);
    expect(['light_group_sun', 'lg_hdri', 'light_group_rest', 'lg_self', 'light_group_background', 'lg_spots'].map((name) => lightKind({ name }))).toEqual(['sun', 'environment', 'rest', 'emission', 'background', 'lamps']);
  });
  it('starting points are plain mixes of the groups that there are', () => {
    const dusk = startMix(yard, lightStarts[2]);
    expect(dusk.map(({ sourceId, params }) => [sourceId, Object.keys(params)])).toEqual([['source-1', ['on']], ['source-2', ['intensityStops', 'takes', 'color']], ['source-3', ['intensityStops', 'takes', 'color']]]);
  });
});

describe('files of mixes', () => {
  const kept = after(yard, { type: 'begin-mix', start: 'dusk' }, { type: 'keep-scenario', name: 'Dusk' });
  const file = JSON.parse(JSON.stringify(lightsFile(kept, kept.light.scenarios)));
  it('are read by another document with groups of the same names, in any order', () => {
    const other = groups('lg rest', 'LG_Interior_Lamps', 'lightgroup.environment');
    const [dusk] = readLights(file).scenarios;
    const { mix, missing } = mixFor(other, dusk);
    expect(mix.map(({ sourceId }) => sourceId)).toEqual(['source-3', 'source-2']);
    expect(missing).toEqual(['“Dusk” sets the group “Sun”, which this document does not have.']);
    expect(mixFor(kept, dusk)).toEqual({ mix: kept.light.scenarios[0].mix, missing: [] });
  });
  it('name what is none', () => {
    expect(() => readLights({ format: 'tazzel-look' })).toThrow('This is no file of light mixes');
    expect(() => readLights({ ...file, version: 9 })).toThrow('newer version');
    const { scenarios, problems } = readLights({ ...file, scenarios: [...file.scenarios, { name: 'Odd', groups: [{ group: 'Sun', params: { watts: 3 } }] }, 7] });
    expect(scenarios).toHaveLength(1);
    expect(problems).toEqual([expect.stringMatching(/^The mix “Odd” was left out: Light group has no parameter “watts”/), expect.stringMatching(/^The mix number 3 was left out/)]);
    expect(withSetting([], 'source-1', AS_RENDERED)).toEqual([]);
  });
});

describe('frames', () => {
  const night = after(yard, { type: 'begin-mix', start: 'night' }, { type: 'keep-scenario', name: 'Night' }, { type: 'reset-lights', what: 'all' }, { type: 'keep-scenario', name: 'Noon' });
  const [dark, noon] = night.light.scenarios;
  const moments = (...keys: readonly (readonly [number, string, 'fade' | 'cut'])[]): TazzelDocument => after(night, { type: 'set-frames', frames: { perSecond: 10, seed: 3, keys: keys.map(([seconds, scenarioId, passage]) => ({ seconds, scenarioId, passage })) } });
  const run = moments([0, dark.id, 'fade'], [2, noon.id, 'fade'], [3, dark.id, 'cut']);
  it('go from one scenario to the next, little by little or at once', () => {
    expect([frameCount(run.light.frames), frameCount(yard.light.frames), mixAt(yard, 1)]).toEqual([31, 0, null]);
    expect(mixAt(run, 0)).toEqual(dark.mix);
    expect(mixAt(run, 1)).toEqual(blended(run, dark.mix, noon.mix, 0.5));
    expect(mixAt(run, 2.9)).toEqual(noon.mix);
    expect(mixAt(run, 3)).toEqual(dark.mix);
    expect(mixAt(run, 99)).toEqual(dark.mix);
    expect(frameDocument(run, 20).light.mix).toEqual(noon.mix);
    expect(frameDocument(yard, 3)).toBe(yard);
  });
  it('lamps that flicker tremble about what they are set to, each by itself, the same for the same seed', () => {
    const lit = after(run, { type: 'set-params', lightId: 'source-3', params: { flickerPercent: 40 } }, { type: 'set-params', lightId: 'source-4', params: { flickerPercent: 40 } }, { type: 'replace-scenario', scenarioId: dark.id }, { type: 'replace-scenario', scenarioId: noon.id });
    const gainsAt = (document: TazzelDocument, id: string) => Array.from({ length: 300 }, (_, i) => 2 ** settingOf(mixAt(document, i / 100) ?? [], id).intensityStops);
    const [lamps, rest] = [gainsAt(lit, 'source-3'), gainsAt(lit, 'source-4')];
    for (const gain of [...lamps, ...rest]) expect(Math.abs(gain - 1)).toBeLessThanOrEqual(0.4 + 1e-9);
    expect(Math.max(...lamps) - Math.min(...lamps)).toBeGreaterThan(0.3);
    expect(lamps.reduce((sum, gain) => sum + gain, 0) / 300).toBeCloseTo(1, 0.7);
    expect(lamps).not.toEqual(rest);
    expect(gainsAt(lit, 'source-3')).toEqual(lamps);
    expect(gainsAt(after(lit, { type: 'set-frames', frames: { ...lit.light.frames, seed: 4 } }), 'source-3')).not.toEqual(lamps);
    expect(gainsAt(lit, 'source-1').every((gain) => gain === 1)).toBe(true);
  });
  it('a scenario that is removed takes its moments with it', () => {
    expect(after(run, { type: 'remove-scenario', scenarioId: dark.id }).light.frames.keys.map(({ scenarioId }) => scenarioId)).toEqual([noon.id]);
  });
});

describe('the sky that is seen', () => {
  const sky = after(yard, { type: 'add-sources', sources: [source(9, { role: 'background', name: 'background' })] });
  it('is a row of its own within the light of the environment, and nothing is read for it until it differs', () => {
    expect(mixedGroups(sky).map(({ source: { id }, weight }) => [id, weight[0]])).toEqual([['source-1', 1], ['source-2', 1], ['source-3', 1], ['source-4', 1], ['source-9', 0]]);
    expect(groupName(sky.sources[4])).toBe('Background, as seen');
    const dark = after(sky, { type: 'set-params', lightId: 'source-9', params: { intensityStops: -2 } }, { type: 'set-params', lightId: 'source-2', params: { intensityStops: 1 } });
    expect(mixedGroups(dark).slice(-1)[0]).toMatchObject({ gain: [0.25, 0.25, 0.25], weight: [-1.75, -1.75, -1.75] });
    expect(lampGains(sky).map(({ name }) => name)).not.toContain('background');
    expect(lampGains(dark).map(({ name }) => name)).toContain('background');
  });
  it('is none where the render delivers it as a group, or where no environment holds it', () => {
    expect(groupsOf(groups('lg_sun', 'lg_lamps')).length).toBe(2);
    const apart = after(groups('lg_sky', 'lg_background'), { type: 'add-sources', sources: [source(9, { role: 'background' })] });
    expect(groupsOf(apart)).toHaveLength(2);
    expect(groupsOf(after(groups('lg_sun'), { type: 'add-sources', sources: [source(9, { role: 'background' })] }))).toHaveLength(1);
    expect(groupsOf(after(sky, { type: 'set-source', sourceId: 'source-9', patch: { inSum: 'out' } }))).toHaveLength(4);
  });
});
