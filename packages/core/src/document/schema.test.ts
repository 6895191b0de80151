import { describe, expect, it } from 'vitest';
import { after, smallDocument } from '../../../../tests/documents.ts';
import { seeded } from '../../../../tests/random.ts';
import { CoreError } from '../errors.ts';
import { planDocument } from '../evaluate/plan.ts';
import { keyAt } from '../evaluate/steps.ts';
import { DOCUMENT_VERSION } from '../model/model.ts';
import { parseDocument, readDocument } from './schema.ts';

const sound = after(
  smallDocument(),
  { type: 'correct-material', materialIds: ['material-1'], correction: 'exposure', zone: 'scene' },
  { type: 'add-chain-correction', layerId: 'layer-1', correction: 'hue-saturation' },
);
type Path = readonly (string | number)[];
/** The sound document with one value put somewhere in it, or taken out. */
function changed(path: Path, value: unknown): unknown {
  const json = JSON.parse(JSON.stringify(sound));
  const holder = path.slice(0, -1).reduce((at, key) => at[key], json);
  const last = path[path.length - 1];
  if (value === GONE) holder.splice(last as number, 1);
  else holder[last] = value;
  return json;
}
const GONE = Symbol('gone');

describe('a sound document', () => {
  it('passes unchanged', () => expect(readDocument(JSON.parse(JSON.stringify(sound)))).toEqual({ document: sound, problems: [], remarks: [] }));
});

describe('a damaged document', () => {
  const damages: readonly [string, Path, unknown, RegExp][] = [
    ['an unknown role', ['sources', 0, 'role'], 'glow', /element “element 1” was left out.*role/],
    ['a mode that is not offered under the tone line', ['buildUp', 'scene', 0, 'blend'], 'overlay', /layer “element 1” was left out.*not offered under the tone line/],
    ['a correction without a name', ['buildUp', 'scene', 1, 'correction', 'type'], 7, /was left out: its type of correction is 7, expected a text/],
    ['a damaged correction in a layer', ['buildUp', 'scene', 0, 'chain', 0, 'opacity'], 3, /^A correction \(hue-saturation\) in the layer “element 1” was left out: its opacity is 3, which is not allowed/],
    ['a parameter that is no number', ['buildUp', 'scene', 1, 'correction', 'params'], { exposureStops: 'x' }, /expected a number/],
    ['a missing mask', ['masks'], [], /switched off: its mask is missing/],
    ['a missing element', ['sources', 0], GONE, /layer “element 1” was left out: its element is missing/],
    ['a missing ID picture', ['sources', 2], GONE, /material “M01” was left out/],
    ['an id that occurs twice', ['buildUp', 'picture', 0, 'id'], 'layer-1', /occurs twice/],
    ['a field that nobody knows', ['masks', 0, 'color'], 'red', /mask “M01” was left out/],
    ['no list of layers', ['buildUp', 'scene'], null, /list of layers is missing/],
  ];
  it.each(damages)('%s: is read without it, and that is said', (_what, path, value, sentence) => {
    const { document, problems } = readDocument(changed(path, value));
    expect(problems.join('\n')).toMatch(sentence);
    // What is left is sound by itself.
    expect(parseDocument(JSON.parse(JSON.stringify(document)))).toEqual(document);
    expect(() => parseDocument(changed(path, value))).toThrow(CoreError);
  });

  it('a damaged correction costs itself and not its layer; one without its mask is named', () => {
    const { document } = readDocument(changed(['buildUp', 'scene', 0, 'chain', 0, 'opacity'], 3));
    expect(document.buildUp.scene[0]).toMatchObject({ id: 'layer-1', chain: [] });
    const { problems } = readDocument(changed(['buildUp', 'scene', 0, 'chain', 0, 'mask'], { maskId: 'mask-99', inverted: false, enabled: true }));
    expect(problems).toEqual(['Hue and saturation in the layer “element 1” was switched off: its mask is missing.']);
  });

  it('a correction of a later version stays as it is, does nothing, and is named', () => {
    const later = { type: 'glow-softly', blend: 'all', params: { sizePx: 12, shape: 'round', curve: [[0, 0], [1, 1]] } };
    const json = changed(['buildUp', 'scene', 0, 'chain', 0], { id: 'correction-1', visible: true, opacity: 1, mask: null, ...later });
    const { document, problems, remarks } = readDocument(json);
    expect(problems).toEqual([]);
    expect(remarks).toEqual(['The layer “element 1” holds a correction that this version does not know (glow-softly). It stays, and does nothing.']);
    expect(JSON.parse(JSON.stringify(document))).toEqual(json);
    const plans = [document, after(document, { type: 'remove-chain-correction', layerId: 'layer-1', correctionId: 'correction-1' })].map((each) => planDocument(each));
    expect(keyAt(plans[0], plans[0].result)).toBe(keyAt(plans[1], plans[1].result));
    // Everything else about the layer can be worked on.
    expect(after(document, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5 } }).buildUp.scene[0]).toMatchObject({ opacity: 0.5, chain: [later] });
    expect(() => after(document, { type: 'set-params', layerId: 'layer-1', correctionId: 'correction-1', params: { sizePx: 3 } })).toThrow(/There is no correction “glow-softly”/);
    // So does a layer that is one.
    const layer = readDocument(changed(['buildUp', 'scene', 1, 'correction'], later));
    expect([layer.problems, layer.remarks.length, layer.document.buildUp.scene[1]]).toEqual([[], 1, expect.objectContaining({ correction: later })]);
  });

  it('a layer of a later version stays as it is, shows nothing, and is named', () => {
    const json = changed(['buildUp', 'scene', 0], { ...(sound.buildUp.scene[0] as object), type: 'hologram', params: { depth: 3, colours: [[0, 1]], shape: { round: true } } });
    const { document, problems, remarks } = readDocument(json);
    expect(problems).toEqual([]);
    expect(remarks).toContain('The layer “element 1” is of a kind that this version does not know (hologram). It stays, and shows nothing.');
    expect(JSON.parse(JSON.stringify(document))).toEqual(json);
    const without = after(document, { type: 'remove-layer', layerId: 'layer-1' });
    const plans = [document, without].map((each) => planDocument(each));
    expect(keyAt(plans[0], plans[0].light)).toBe(keyAt(plans[1], plans[1].light));
    // It is worked on like any other, except for what only its own kind knows.
    expect(after(document, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5, name: 'Later' } }).buildUp.scene[0]).toMatchObject({ opacity: 0.5, type: 'hologram' });
    expect(() => after(document, { type: 'set-params', layerId: 'layer-1', params: { depth: 4 } })).toThrow(/There is no kind of layer “hologram”/);
    expect(() => after(document, { type: 'set-layer', layerId: 'layer-1', patch: { placement: null } })).toThrow(/cannot be moved/);
  });

  it.each([
    ['a kind of layer', ['buildUp', 'scene', 0, 'kind'], 'sky', 'The layer “element 1” was left out: its kind is “sky”, which is not known.'],
    ['a number', ['buildUp', 'scene', 0, 'opacity'], 'half', 'The layer “element 1” was left out: its opacity is “half”, expected a number.'],
    ['a range', ['buildUp', 'scene', 0, 'opacity'], 7, 'The layer “element 1” was left out: its opacity is 7, which is not allowed.'],
    ['a field', ['sources', 0, 'encoding'], undefined, 'The element “element 1” was left out: its encoding is missing.'],
    ['a stranger', ['masks', 0, 'color'], 'red', 'The mask “M01” was left out: it holds something unknown: color.'],
    ['a field inside', ['sources', 0, 'file', 'byteLength'], -1, 'The element “element 1” was left out: its byte length of file is -1, which is not allowed.'],
  ] as const)('%s that is wrong is said in words for people', (_what, path, value, sentence) => {
    expect(readDocument(changed(path, value)).problems[0]).toBe(sentence);
  });

  it('is refused if it is no document, newer, or without a size', () => {
    for (const other of [null, 7, 'x', [], {}, { format: 'other' }]) expect(() => readDocument(other)).toThrow(/not a Tazzel document/);
    expect(() => readDocument(changed(['version'], DOCUMENT_VERSION + 1))).toThrow(/newer version/);
    expect(() => readDocument(changed(['size'], { width: 1e9, height: 2 }))).toThrow(/cannot be read/);
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
