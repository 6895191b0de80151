import { describe, expect, it } from 'vitest';
import { seeded } from '../../../../tests/random.ts';
import { randomParams, randomValue } from '../../../../tests/random-params.ts';
import { HUE_FAMILIES } from '../color/hue-families.ts';
import { corrections } from '../corrections/registry.ts';
import { layerSpecs } from '../layers/registry.ts';
import { maskTerms } from '../masks/registry.ts';
import { bands } from './bands.ts';
import { choice } from './choice.ts';
import { color, hexOf, lightOfHex, readHex } from './color.ts';
import { curve } from './curve.ts';
import { Unfit } from './define.ts';
import { direction } from './direction.ts';
import { figureOf } from './figures.ts';
import { flag } from './flag.ts';
import { number } from './number.ts';
import { paths } from './paths.ts';
import { point } from './point.ts';
import { type Param, paramKind, paramKinds } from './registry.ts';
import { completeParams, defaultsOf, faultOf, scaledParams, summaryOf, valueFromText } from './table.ts';
import { lut } from './lut.ts';
import { moment } from './moment.ts';
import { places } from './places.ts';
import { element, layer, mask, materials, scenario } from './references.ts';
import { placedFigures } from './placed-figures.ts';
import { strokes } from './strokes.ts';
import { text } from './text.ts';
import { tones } from './tones.ts';

/** One of each kind. */
const params = {
  number: number({ label: 'Width', unit: 'px', min: 0, max: 100, default: 4, step: 1, digits: 1, help: 'Any.' }),
  choice: choice({ label: 'Passage', options: { straight: 'Straight', smooth: 'Smooth' }, default: 'straight', help: 'Any.' }),
  flag: flag({ label: 'Inside', default: true, help: 'Any.' }),
  color: color({ label: 'Colour', of: 'surface', default: [0.2, 0.3, 0.4], help: 'Any.' }),
  point: point({ label: 'Centre', unit: 'px', default: [10, 20], help: 'Any.' }),
  direction: direction({ label: 'Direction', default: [0, 1, 0], help: 'Any.' }),
  curve: curve({ label: 'All', help: 'Any.' }),
  bands: bands({ label: 'Hue', unit: '°', min: -60, max: 60, default: 0, step: 1, digits: 0, help: 'Any.' }),
  tones: tones({ label: 'Red', unit: '%', min: -100, max: 100, default: [0, 0, 0], step: 1, digits: 0, help: 'Any.' }),
  element: element({ label: 'Element', help: 'Any.' }),
  layer: layer({ label: 'Shows after', help: 'Any.' }),
  mask: mask({ label: 'Mask', help: 'Any.' }),
  materials: materials({ label: 'Materials', help: 'Any.' }),
  scenario: scenario({ label: 'Mix', help: 'Any.' }),
  places: places({ label: 'Points', least: 2, most: 4, help: 'Any.' }),
  paths: paths({ label: 'Courses', help: 'Any.' }),
  figures: placedFigures({ label: 'Figures', help: 'Any.' }),
  strokes: strokes({ label: 'Strokes', help: 'Any.' }),
  lut: lut({ label: 'Table', help: 'Any.' }),
  text: text({ label: 'Title', help: 'Any.' }),
  moment: moment({ label: 'Time', default: '2026-06-21T12:00Z', help: 'Any.' }),
} satisfies { readonly [K in Param['kind']]: Param };
const all = { label: 'Everything', params };

describe.each(Object.entries<Param>(params))('a parameter of the kind %s', (kind, param) => {
  const { read, write, parse, summary, range } = paramKind(param);
  it('has a default that fits, words for it, and a name in the registry', () => {
    expect(read(param, param.default)).toEqual(param.default);
    expect(summary(param, param.default)).toEqual(expect.any(String));
    expect(range(param)).not.toBe('');
    expect(faultOf({ [kind]: param })).toBeNull();
    expect(Object.keys(paramKinds)).toContain(kind);
  });
  it('is the same after JSON and after the shell (seed 50)', () => {
    const random = seeded(50);
    for (let i = 0; i < 50; i++) {
      const value = read(param, randomValue(param, random));
      if (value instanceof Unfit) throw new Error(`${kind}: ${value.expected}`);
      expect(read(param, JSON.parse(JSON.stringify(value)))).toEqual(value);
      expect(read(param, parse(param, write(param, value)))).toEqual(value);
    }
  });
  it('refuses what is of another kind, and says what it expected', () => {
    // Any text can be an id, and a list can be empty.
    const texts = kind === 'text' ? ['x'.repeat(201), 'two\nlines'] : ['element', 'layer', 'mask', 'scenario'].includes(kind) ? ['x'.repeat(101)] : ['no such thing'];
    const lists = ['materials', 'paths', 'places', 'strokes', 'figures'].includes(kind) ? [[7], [[1]], [{}], [['x', 1]], ['']] : [[], [[0, 0]], [[0, 0], [0, 1]]];
    for (const wrong of [null, undefined, Number.NaN, Number.POSITIVE_INFINITY, {}, [1], [1, 2, 3, 4], ...texts, ...lists, [Number.NaN, 1, 1]]) {
      const value = read(param, wrong);
      expect(value).toBeInstanceOf(Unfit);
      expect((value as Unfit).expected).not.toBe('');
    }
  });
});

describe('tables of parameters', () => {
  it('fill defaults in and keep ranges', () => {
    expect(completeParams(all, {})).toEqual(defaultsOf(all));
    expect(completeParams(all, { number: 1e9, color: [2, -1, 0.5], point: [1e9, 5], bands: HUE_FAMILIES.map(() => 99) })).toMatchObject({ number: 100, color: [1, 0, 0.5], point: [2 ** 20, 5], bands: HUE_FAMILIES.map(() => 60) });
  });
  it('name what does not fit, with the label for people', () => {
    expect(() => completeParams(all, { tint: 1 })).toThrow('Everything has no parameter “tint”. It has: number, choice');
    expect(() => completeParams(all, { choice: 'bent' })).toThrow('Everything, Passage: expected one of straight, smooth, found “bent”.');
    expect(() => completeParams(all, { curve: [[0.5, 0], [0.2, 1]] })).toThrow('Everything, All: expected points from left to right, none above another, found a list ([[0.5,0],[0.2,1]]).');
    expect(() => completeParams(all, { constructor: 1 })).toThrow(/no parameter/);
  });
  it('are read from the shell, in the forms that people write', () => {
    expect([['number', '12.5'], ['number', '−3'], ['choice', ' smooth '], ['flag', 'no'], ['color', '#fff'], ['color', '0.1, 0.2, 0.3'], ['point', '3 4'], ['curve', '0,0 0.5,0.7 1,1'], ['bands', 'red=10 blue=-20'], ['tones', '1,2,3']].map(([name, text]) => valueFromText(all, name, text))).toEqual([
      12.5, 0, 'smooth', false, [1, 1, 1], [0.1, 0.2, 0.3], [3, 4], [[0, 0], [0.5, 0.7], [1, 1]], [10, 0, 0, 0, 0, -20, 0, 0], [1, 2, 3],
    ]);
    for (const [name, text] of [['number', ''], ['number', '1 2'], ['flag', 'perhaps'], ['color', '#12'], ['bands', 'pink=3'], ['curve', '0,0'], ['tones', '1,2']]) expect(() => valueFromText(all, name, text), `${name} ${text}`).toThrow(/expected/);
  });
  it('follow a picture that becomes larger: pixels and places in pixels do, all else stays', () => {
    const values = completeParams(all, {});
    expect(scaledParams(all, values, { across: 2, down: 8 })).toEqual({ ...values, number: 16, point: [20, 160] });
    expect(scaledParams(all, { number: 90, unknown: 3 } as never, { across: 2, down: 2 })).toEqual({ number: 100, unknown: 3 });
  });
  it('say on a card what was changed, colours first', () => {
    expect(summaryOf(all, completeParams(all, {}))).toBe('');
    expect(summaryOf(all, completeParams(all, { number: 7, color: [1, 1, 1], flag: false, bands: [5, 0, 0, 0, 0, -10, 0, 0], curve: [[0, 0], [0.5, 0.4], [1, 1]] }))).toBe('#ffffff, 7.0 px, not inside, all through 3 points, red 5 °, blue −10 °');
  });
  it('with a default that does not fit are refused', () => {
    expect(faultOf({ width: { ...params.number, default: 200 } })).toMatch(/^width: the default must lie in the range/);
    expect(faultOf({ passage: { ...params.choice, default: 'bent' as never } })).toMatch(/one of its options/);
    expect(faultOf({ hue: { ...params.bands, step: 0 } })).toMatch(/step must be positive/);
  });
  it.each([...corrections, ...maskTerms, ...layerSpecs].map((spec) => [spec.label, spec] as const))('%s: every value survives JSON and the shell (seed 51)', (_label, spec) => {
    const values = completeParams(spec, randomParams(spec.params, seeded(51)));
    expect(completeParams(spec, JSON.parse(JSON.stringify(values)))).toEqual(values);
    for (const [name, value] of Object.entries(values)) expect(valueFromText(spec, name, paramKind(spec.params[name]).write(spec.params[name], value))).toEqual(value);
  });
});

describe('colours', () => {
  // IEC 61966-2-1: code 188 of 255 is half of the light, to half a code.
  it('are hex codes of what is shown, and light', () => {
    expect([hexOf([0, 0.5, 1]), hexOf([-1, 7, 0.18])]).toEqual(['#00bcff', '#00ff76']);
    expect(lightOfHex('#bcbcbc')[0]).toBeCloseTo(0.5029, 4);
    expect(['#abc', 'ABCDEF', ' 12 ', '#12345', 'red'].map(readHex)).toEqual(['#aabbcc', '#abcdef', null, null, null]);
    for (let code = 0; code < 256; code++) {
      const hex = `#${code.toString(16).padStart(2, '0').repeat(3)}`;
      expect(hexOf(lightOfHex(hex))).toBe(hex);
    }
  });
});

describe('figures as people type them', () => {
  it.each([['12', 12], ['1,5', 1.5], ['−2.5 EV', -2.5], ['50 + 12.5 %', 62.5], ['3 * (40 − 4) px', 108], ['2 × 1.5', 3], ['100/8', 12.5], ['.5', 0.5], ['-(2+3)*2', -10], ['2--3', 5], ['1e2', 100]])('%s is %f', (text, value) => {
    expect(figureOf(text)).toBeCloseTo(value, 12);
  });
  it.each(['', 'px', '1 +', '(1', '1/0', '2 3', 'a1', '1..2', '*3'])('%s is none', (text) => {
    expect(figureOf(text)).toBeNaN();
  });
});
