import { describe, expect, it } from 'vitest';
import { after, smallDocument } from '../../../../testing/documents.ts';
import { seeded } from '../../../../testing/random.ts';
import { CoreError } from '../errors.ts';
import { parseDocument, readDocument } from './schema.ts';

const sound = after(
  smallDocument(),
  { type: 'correct-material', materialId: 'material-1', correction: 'exposure', zone: 'scene' },
  { type: 'add-chain-correction', layerId: 'layer-1', correction: 'hue-saturation' },
);
/** A document that `damage` broke. What it touches is its own business: that is the point. */
const changed = (damage: (json: never) => void): unknown => {
  const json = JSON.parse(JSON.stringify(sound));
  damage(json as never);
  return json;
};

describe('a sound document', () => {
  it('passes unchanged', () => expect(readDocument(JSON.parse(JSON.stringify(sound)))).toEqual({ document: sound, problems: [] }));
});

describe('a damaged document', () => {
  const damages: readonly [string, (json: never) => void, RegExp][] = [
    ['an unknown role', (j: { sources: { role: string }[] }) => void (j.sources[0].role = 'glow'), /element “element 1” was left out.*role/],
    ['a mode that is not offered under the tone line', (j: { buildUp: { scene: { blend: string }[] } }) => void (j.buildUp.scene[0].blend = 'overlay'), /layer “element 1” was left out.*not offered under the tone line/],
    ['an unknown correction', (j: { buildUp: { scene: { correction: { type: string } }[] } }) => void (j.buildUp.scene[1].correction.type = 'magic'), /was left out/],
    ['a parameter that is no number', (j: { buildUp: { scene: { correction: { params: object } }[] } }) => void (j.buildUp.scene[1].correction.params = { exposureStops: 'x' }), /expected a number/],
    ['a missing mask', (j: { masks: unknown[] }) => void (j.masks = []), /switched off: its mask is missing/],
    ['a missing element', (j: { sources: unknown[] }) => void j.sources.shift(), /layer “element 1” was left out: its element is missing/],
    ['a missing ID picture', (j: { sources: unknown[] }) => void j.sources.pop(), /material “M01” was left out/],
    ['an id that occurs twice', (j: { buildUp: { picture: { id: string }[] } }) => void (j.buildUp.picture[0].id = 'layer-1'), /occurs twice/],
    ['a field that nobody knows', (j: { masks: { color: string }[] }) => void (j.masks[0].color = 'red'), /mask “M01” was left out/],
    ['no list of layers', (j: { buildUp: { scene: null } }) => void (j.buildUp.scene = null), /list of layers is missing/],
  ];
  it.each(damages)('%s: is read without it, and that is said', (_what, damage, sentence) => {
    const { document, problems } = readDocument(changed(damage));
    expect(problems.join('\n')).toMatch(sentence);
    // What is left is sound by itself.
    expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    expect(() => parseDocument(changed(damage))).toThrow(CoreError);
  });

  it('is refused if it is no document, newer, or without a size', () => {
    for (const other of [null, 7, 'x', [], {}, { format: 'other' }]) expect(() => readDocument(other)).toThrow(/not a Tazzel document/);
    expect(() => readDocument(changed((j: { version: number }) => void (j.version = 2)))).toThrow(/newer version/);
    expect(() => readDocument(changed((j: { size: object }) => void (j.size = { width: 1e9, height: 2 })))).toThrow(/cannot be read/);
  });

  it('never throws anything but its own refusal, whatever is broken (seed 21)', () => {
    const random = seeded(21);
    const values = [null, -1, 1e300, 'x', [], {}, true, Number.MAX_SAFE_INTEGER];
    for (let i = 0; i < 2000; i++) {
      const json = JSON.parse(JSON.stringify(sound));
      let at = json;
      for (let depth = 0; depth < 6; depth++) {
        const keys = Object.keys(at);
        if (keys.length === 0) break;
        const key = keys[Math.floor(random() * keys.length)];
        if (random() < 0.3 || typeof at[key] !== 'object' || at[key] === null) {
          at[key] = values[Math.floor(random() * values.length)];
          break;
        }
        at = at[key];
      }
      try {
        expect(parseDocument(JSON.parse(JSON.stringify(readDocument(json).document)))).toBeTruthy();
      } catch (error) {
        expect(error, `round ${i}`).toBeInstanceOf(CoreError);
      }
    }
  });
});
