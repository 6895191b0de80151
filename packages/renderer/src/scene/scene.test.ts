import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { scene, variedScene } from '../../../../tests/scenes.ts';
import { kilnYard } from './kiln-yard.ts';
import { countTriangles, trianglesOf } from './mesh.ts';
import { lightGroups, type Shape, type Triple } from './model.ts';
import { parseSceneFile, readScene } from './schema.ts';

const shapes = (...list: Shape[]) => trianglesOf(scene({ objects: [{ name: 'Thing', material: 'White', shapes: list }] }));

/** Six times the volume by the divergence theorem: positive if every face looks outwards. */
function volumeOf({ corners }: { corners: Float32Array }): number {
  let sum = 0;
  for (let i = 0; i < corners.length; i += 9) {
    const [ax, ay, az, bx, by, bz, cx, cy, cz] = corners.subarray(i, i + 9);
    sum += ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
  }
  return sum / 6;
}

describe('shapes', () => {
  it('closed bodies look outwards and have their volume', () => {
    expect(volumeOf(shapes({ kind: 'box', min: [1, 1, 1], max: [3, 2, 5] }))).toBeCloseTo(8, 4);
    expect(volumeOf(shapes({ kind: 'box', min: [1, 1, 1], max: [3, 2, 5], turnDegrees: 33 }))).toBeCloseTo(8, 4);
    expect(volumeOf(shapes({ kind: 'sphere', center: [3, 2, 1], radius: 1, sides: 96 })) / ((4 / 3) * Math.PI)).toBeCloseTo(1, 2);
    expect(volumeOf(shapes({ kind: 'cylinder', from: [0, 0, 0], to: [1, 2, 3], radius: 0.5, sides: 96 })) / (Math.PI * 0.25 * Math.sqrt(14))).toBeCloseTo(1, 2);
    for (const depth of [[0, 0, 0.2], [0.2, 0, 0], [0, 0, -0.2]] as Triple[]) expect(volumeOf(shapes({ kind: 'books', from: [0, 0, 0], to: depth[0] === 0 ? [2, 0, 0] : [0, 0, 2], height: 0.3, depth, seed: 3 }))).toBeGreaterThan(0.02);
  });
  it('the same seed grows the same tree; the crown is around its branches', () => {
    const crown = (seed: number) => shapes({ kind: 'crown', at: [5, 0, 5], height: 6, seed, leaves: 200, leafMetres: 0.1 });
    expect(crown(4)).toEqual(crown(4));
    expect(crown(4)).not.toEqual(crown(5));
    const { corners } = crown(4);
    for (let i = 0; i < corners.length; i += 3) {
      expect(Math.hypot(corners[i] - 5, corners[i + 2] - 5)).toBeLessThan(4);
      expect(corners[i + 1]).toBeGreaterThan(0.5);
      expect(corners[i + 1]).toBeLessThan(8);
    }
  });
  it('diagonals are no edges', () => {
    const { edges } = shapes({ kind: 'quad', corner: [0, 0, 0], u: [1, 0, 0], v: [0, 1, 0] });
    expect([...edges]).toEqual([5, 3]);
  });
  it('nothing to see is refused', () => expect(() => shapes({ kind: 'quad', corner: [0, 0, 0], u: [0, 0, 0], v: [0, 1, 0] })).toThrow(/no object has a surface/));
});

describe('scene files', () => {
  it('the built-in scene is a scene, with about 15 materials and five groups of light', () => {
    expect(readScene(JSON.parse(JSON.stringify(kilnYard))).name).toBe('Kiln Yard Library');
    expect(kilnYard.materials.length).toBeGreaterThanOrEqual(15);
    expect(lightGroups(kilnYard)).toEqual(['sun', 'environment', 'interior lamps', 'facade lamps', 'yard lights', 'rest']);
    expect(kilnYard.cameras.map(({ name }) => name)).toEqual(['courtyard', 'reading-room']);
    expect(readScene(variedScene()).objects).toHaveLength(10);
  });
  /** The varied scene with one place changed; undefined takes the field away. */
  const broken = (...changes: readonly (readonly [string, unknown])[]) => {
    const value = JSON.parse(JSON.stringify(variedScene())) as Record<string, unknown>;
    for (const [path, wanted] of changes) {
      const steps = path.split('.');
      const last = steps.pop() as string;
      const holder = steps.reduce((at, step) => at[step] as Record<string, unknown>, value);
      if (wanted === undefined) delete holder[last];
      else holder[last] = wanted;
    }
    return () => readScene(value);
  };
  const web = { kind: 'web', name: 'w', group: null, lumens: 1, kelvin: 3000, at: [0, 1, 0], aim: [0, -1, 0], ies: 'x' };
  const dated = { place: 'date', latitudeDegrees: 0, longitudeDegrees: 0, utc: 'noon', northDegrees: 0, lux: null, kelvin: 5000, angularDegrees: 0.5 };
  const open = { kind: 'mesh', positions: [0, 0, 0, 1, 0, 0, 0, 1, 0], indices: [0, 1, 3] };
  it.each([
    ['a number as text', 'cameras.0.focalMillimetres', '35', /cameras\[0\]\.focalMillimetres/],
    ['a missing field', 'materials.0.number', undefined, /materials\[0\]\.number/],
    ['a field too many', 'objects.0.colour', 1, /objects\[0\] has an unknown field: colour/],
    ['an unknown shape', 'objects.0.shapes.0.kind', 'torus', /objects\[0\]\.shapes\[0\]\.kind must be one of the following values: box/],
    ['a colour above 1', 'materials.0.surface.paint.color.1', 2, /materials\[0\]\.surface\.paint\.color\[1\]/],
    ['a material that is not there', 'objects.1.material', 'Marble', /objects\[1\]\.material is “Marble”, but there is no such material; there are Ground, Brick/],
    ['two objects of one name', 'objects.1.name', 'Ground', /objects has the name “Ground” twice/],
    ['a box inside out', 'objects.1.shapes.0.min.0', 9, /min must not lie above max/],
    ['indices beyond the positions', 'objects.0.shapes.0', open, /points beyond the 3 positions/],
    ['an IES text that is none', 'lamps.1', web, /lamps\[1\]\.ies: this is not an IES LM-63 file/],
    ['a date that is none', 'sun', dated, /sun\.utc must be a date/],
    ['a sky picture of another size', 'sky', { kind: 'image', width: 4, height: 2, pixels: [1, 2, 3], luminance: 1 }, /sky\.pixels has 3 numbers, 24 expected/],
    ['something else', 'format', 'other', /format must be one of the following values: tazzel-scene/],
  ] as [string, string, unknown, RegExp][])('%s', (_what, path, wanted, sentence) => expect(broken([path, wanted])).toThrow(sentence));
  it('names every wrong field, at most a dozen', () => {
    const many = Array.from({ length: 9 }, (_, i): [string, unknown] => [`materials.${i}.number`, -1]);
    expect(broken(...many, ...Array.from({ length: 9 }, (_, i): [string, unknown] => [`objects.${i}.name`, 5]))).toThrow(/… and more/);
  });
  it('the example of docs/scenes.md', () => {
    const example = /```json\n([\s\S]*?)```/.exec(readFileSync(new URL('../../../../docs/scenes.md', import.meta.url), 'utf8'))?.[1] ?? '';
    expect(readScene(JSON.parse(example)).name).toBe('A room');
  });
  it('budgets are checked before anything is built', () => {
    const blades = { kind: 'blades' as const, min: [0, 0, 0] as Triple, max: [1, 1, 1] as Triple, count: 500_000, height: 1, widthMetres: 0.1, seed: 1 };
    expect(() => shapes(...Array.from({ length: 40 }, () => blades))).toThrow(/more than 5 million triangles \(at the object “Thing”\)/);
    expect(() => shapes({ kind: 'books', from: [0, 0, 0], to: [900_000, 0, 0], height: 0.3, depth: [0, 0, 0.2], seed: 1 })).toThrow(/more than 5 million triangles/);
    for (const one of variedScene().objects) for (const shape of one.shapes) expect(shapes(shape).material.length).toBeLessThanOrEqual(countTriangles(scene({ objects: [{ name: 'Thing', material: 'White', shapes: [shape] }] })));
  });
  it('of sixty thousand faults a dozen are said, and long lists are looked at quickly', () => {
    const value = { ...scene(), objects: Array.from({ length: 60_000 }, (_, i) => ({ name: i, material: 'White', shapes: [{ kind: 'sphere' }] })) };
    expect(() => readScene(value)).toThrow(/… and more/);
    const positions = Array.from({ length: 3_000_000 }, (_, i) => i % 7);
    const mesh = (patch: object) => ({ ...scene(), objects: [{ name: 'Mesh', material: 'White', shapes: [{ kind: 'mesh', positions, indices: [0, 1, 2], ...patch }] }] });
    expect(readScene(mesh({})).objects).toHaveLength(1);
    expect(() => readScene(mesh({ positions: positions.with(2_999_999, Number.NaN) }))).toThrow(/objects\[0\]\.shapes\[0\]\.positions\[2999999\] is no number that fits/);
  });
  it('files of brackets and files that are none are refused before they are built', () => {
    const bytes = (text: string) => new TextEncoder().encode(text);
    expect(() => parseSceneFile(bytes('['.repeat(200_000)), 'deep.json')).toThrow('deep.json cannot be opened: its parts lie more than 100 deep inside each other.');
    expect(() => parseSceneFile(bytes(`[${'[],'.repeat(2_100_000)}1]`), 'many.json')).toThrow(/^many\.json cannot be opened: it holds 2100001 lists and objects/);
    expect(() => parseSceneFile(bytes('{'), 'broken.json')).toThrow(/broken\.json is not JSON/);
    expect(parseSceneFile(bytes('{"a": "\\"[[["}'), 'fine.json')).toEqual({ a: '"[[[' });
  });
  it('no scene at all', () => {
    for (const value of [null, 5, 'scene', []]) expect(() => readScene(value)).toThrow(/cannot be rendered/);
  });
});
