import { describe, expect, it } from 'vitest';
import { camera, ground, kernelModule, matt, scene, trace, variedScene } from '../../../../tests/scenes.ts';
import { meterScene } from '../render/meter.ts';
import { kilnYard } from '../scene/kiln-yard.ts';
import { lightGroups } from '../scene/model.ts';
import { KIND, LAMP_MATERIAL, packScene, World } from './world.ts';

const plain = (bytes: number) => new ArrayBuffer(bytes);
const worldOf = (description = variedScene()) => new World(packScene(description, plain), kernelModule());

describe('a scene made ready', () => {
  it('gives every lamp with a surface a body of its own name, with the lamps’ material', () => {
    const packed = packScene(variedScene(), plain);
    expect(packed.scene.objects.slice(packed.firstLamp).map(({ name, material }) => `${name}: ${material}`)).toEqual([`Bulb: ${LAMP_MATERIAL}`, `Panel: ${LAMP_MATERIAL}`]);
    expect(packed.lampOfObject).toEqual([0, 1]);
    expect(packed.scene.materials.at(-1)).toMatchObject({ name: LAMP_MATERIAL, number: 10 });
  });
  it('lamps named like objects get a number, webs have no body', () => {
    const lamp = { kind: 'sphere', name: 'Ground', group: null, lumens: 1, kelvin: 3000, center: [0, 2, 0], radius: 0.1 } as const;
    const web = { kind: 'web', name: 'Spot', group: null, lumens: 1, kelvin: 3000, at: [0, 2, 0], aim: [0, -1, 0], ies: 'TILT=NONE\n1 100 1 2 1 1 2 0 0 0\n1 1 1\n0 90\n0\n9 0\n' } as const;
    const packed = packScene(scene({ lamps: [lamp, web, lamp] }), plain);
    expect(packed.scene.objects.map(({ name }) => name)).toEqual(['Ground', 'Ground 2', 'Ground 3']);
    expect(packed.lampOfObject).toEqual([0, 2]);
  });
  it('works out materials, lights and groups', () => {
    const world = worldOf();
    expect(world.groups).toEqual(['sun', 'environment', 'bulbs', 'screens', 'rest']);
    expect(world.substances.map(({ kind }) => kind)).toEqual([KIND.matt, KIND.matt, KIND.pane, KIND.metal, KIND.metal, KIND.body, KIND.leaf, KIND.coated, KIND.luminous, KIND.matt]);
    expect(world.substances[3].width).toBe(0);
    expect(world.substances[4].width).toBeCloseTo(0.35 ** 2, 12);
    expect(world.lamps.map(({ group }) => group)).toEqual([2, 4]);
    expect(world.hasSky).toBe(true);
    // Luminance of the sun's light is its illuminance.
    const { light } = world.sun ?? { light: [0, 0, 0] };
    expect(0.2126 * light[0] + 0.7152 * light[1] + 0.0722 * light[2]).toBeCloseTo(700, 6);
  });
  it('has no sun below the horizon and no sky where none is described', () => {
    const night = worldOf(scene({ sun: { place: 'angles', azimuthDegrees: 0, altitudeDegrees: -3, lux: null, kelvin: 5000, angularDegrees: 0.5 } }));
    expect(night.sun).toBeNull();
    expect(night.hasSky).toBe(false);
    expect(lightGroups(night.scene)).toEqual(['sun', 'environment', 'rest']);
  });
  it('the built-in scene has the surfaces it needs: leaves, panes, water, lamps of three kinds', () => {
    const world = worldOf(kilnYard);
    const kinds = new Set(world.substances.map(({ kind }) => kind));
    for (const kind of [KIND.matt, KIND.coated, KIND.metal, KIND.leaf, KIND.pane, KIND.body]) expect(kinds.has(kind)).toBe(true);
    expect(new Set(kilnYard.lamps.map(({ kind }) => kind))).toEqual(new Set(['sphere', 'rectangle', 'web']));
    expect(world.tree.material.length).toBeGreaterThan(300_000);
  });
});

describe('metering', () => {
  it('reads the luminance of an even view, whatever the size', () => {
    const world = worldOf(scene({ sky: { kind: 'uniform', luminance: 320, color: [1, 1, 1] } }));
    const up = camera({ at: [0, 1, 0], lookAt: [0, 9, 0.1] });
    for (const [width, height] of [[300, 200], [100, 400]]) expect(meterScene(world, { camera: up, width, height, seed: 1 })).toBeCloseTo(320, 6);
    // Ground of half the reflectance under the same sky: half the luminance.
    const down = camera({ at: [0, 1, 0], lookAt: [0, 0, 0.001] });
    expect(meterScene(world, { camera: down, width: 300, height: 200, seed: 1 }) / 160).toBeCloseTo(1, 1);
  });
  it('is 0 in the dark', () => expect(meterScene(worldOf(scene()), { camera: camera(), width: 30, height: 20, seed: 1 })).toBe(0));
});

describe('what paths find', () => {
  it('a mirror shows the sky, in the reflection and with the sky’s group', () => {
    const mirror = scene({ materials: [{ ...matt('Mirror', 0), surface: { kind: 'metal', color: [0.8, 0.8, 0.8], roughness: 0 } }], objects: [ground('Mirror')], sky: { kind: 'uniform', luminance: 100, color: [1, 1, 1] }, cameras: [camera({ at: [0, 2, 3], lookAt: [0, 0, 0] })] });
    const pixel = trace(mirror, 5, 5).pixel(2, 2, 32);
    const [, green] = pixel.mean('reflection');
    // Schlick: 0.8 and a little more away from the normal.
    expect(green).toBeGreaterThan(80);
    expect(green).toBeLessThan(84);
    expect(pixel.mean('group environment')[1]).toBeCloseTo(green, 9);
    expect(pixel.mean('reflection-filter')[1]).toBeCloseTo(green / 100, 6);
  });
  it('a lamp that is seen is self-illumination of its group', () => {
    const lamp = { kind: 'sphere', name: 'Lamp', group: 'bulbs', lumens: 400, kelvin: 6500, center: [0, 1, 0], radius: 0.3 } as const;
    const pixel = trace(scene({ lamps: [lamp], cameras: [camera({ focalMillimetres: 500 })] }), 5, 5).pixel(2, 2, 16);
    // Φ / (4π² r²): an even sphere.
    const [r, g, b] = pixel.mean('self-illumination');
    expect((0.2126 * r + 0.7152 * g + 0.0722 * b) / (400 / (4 * Math.PI ** 2 * 0.09))).toBeCloseTo(1, 2);
    expect(pixel.mean('group bulbs')[1]).toBeCloseTo(g, 9);
    expect(pixel.mean('alpha')[0]).toBe(1);
  });
  it('leaves let light through to their other side', () => {
    const leaf = (through: number) => scene({ materials: [{ ...matt('Leaf', 0), surface: { kind: 'leaf', paint: { pattern: 'flat', color: [0.4, 0.4, 0.4] }, through } }], objects: [{ name: 'Leaf', material: 'Leaf', shapes: [{ kind: 'quad', corner: [-5, 2, 5], u: [10, 0, 0], v: [0, 0, -10] }] }], sun: { place: 'angles', azimuthDegrees: 0, altitudeDegrees: 80, lux: 1000, kelvin: 6500, angularDegrees: 0.5 }, cameras: [camera({ at: [0, 0, 0], lookAt: [0, 2, 0.01] })] });
    expect(trace(leaf(0), 3, 3).pixel(1, 1, 16).mean('direct-lighting')[1]).toBe(0);
    expect(trace(leaf(0.5), 3, 3).pixel(1, 1, 16).mean('direct-lighting')[1]).toBeGreaterThan(10);
  });
});
