import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { blurDiameter } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { beautyOf, camera, ground, kernelModule, matt, scene, trace, variedScene } from '../../../../tests/scenes.ts';
import { PATHS } from '../film/slots.ts';
import { trianglesOf } from '../scene/mesh.ts';
import { lightGroups, type SceneDescription, type Shape, type Triple } from '../scene/model.ts';
import { buildTree } from './bvh.ts';
import { CameraRays } from './camera.ts';
import { fogDepth, fogReach } from './fog.ts';
import { RayQueries } from './queries.ts';
import { Sampler } from './sampler.ts';

const luminance = ([r, g, b]: readonly number[]) => 0.2126 * r + 0.7152 * g + 0.0722 * b;

describe('rays', () => {
  const random = seeded(12);
  const shapes: Shape[] = [
    { kind: 'box', min: [-1, 0, -1], max: [1, 1, 1], turnDegrees: 20 },
    { kind: 'sphere', center: [2, 1, 0], radius: 0.8, sides: 20 },
    { kind: 'cylinder', from: [-2, 0, 0], to: [-1.6, 2, 0.4], radius: 0.3, sides: 12 },
    { kind: 'crown', at: [0, 0, 2], height: 3, seed: 4, leaves: 400, leafMetres: 0.12 },
    { kind: 'blades', min: [-2, 0, 2], max: [2, 0, 3], count: 200, height: 0.4, widthMetres: 0.02, seed: 5 },
  ];
  const list = trianglesOf(scene({ objects: [ground('White', 5), { name: 'Things', material: 'White', shapes }] }));
  const ray = (): [number, number, number, number, number, number] => {
    const [z, a] = [1 - 2 * random(), random() * 2 * Math.PI];
    const r = Math.sqrt(1 - z * z);
    return [random() * 6 - 3, random() * 3, random() * 6 - 3, r * Math.cos(a), z, r * Math.sin(a)];
  };
  it('meet what three-mesh-bvh’s own raycast meets (seed 12)', () => {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(list.corners.slice(), 3));
    const bvh = new MeshBVH(geometry);
    const rays = new RayQueries(buildTree(list, () => false, (bytes) => new ArrayBuffer(bytes)), kernelModule());
    let hits = 0;
    for (let i = 0; i < 4000; i++) {
      const [ox, oy, oz, dx, dy, dz] = ray();
      const theirs = bvh.raycastFirst(new Ray(new Vector3(ox, oy, oz), new Vector3(dx, dy, dz)), DoubleSide, 1e-6, 1e6);
      const ours = rays.nearest(ox, oy, oz, dx, dy, dz, 1e-6, 1e6);
      expect(ours, `ray ${i}`).toBe(theirs !== null);
      if (!theirs) continue;
      hits++;
      expect(rays.t).toBeCloseTo(theirs.distance, 4);
      const blocked = rays.passage(ox, oy, oz, dx, dy, dz, 0, theirs.distance * 1.001, () => true);
      expect(blocked).toBe(false);
      expect(rays.passage(ox, oy, oz, dx, dy, dz, 0, theirs.distance * 0.999, () => true)).toBe(true);
    }
    expect(hits).toBeGreaterThan(1500);
  });
  it('along the axes, inside boxes and in their planes', () => {
    const rays = new RayQueries(buildTree(trianglesOf(scene({ objects: [{ name: 'Box', material: 'White', shapes: [{ kind: 'box', min: [-1, -1, -1], max: [1, 1, 1] }] }] })), () => false, (bytes) => new ArrayBuffer(bytes)), kernelModule());
    for (const [dx, dy, dz] of [[1, 0, 0], [0, 1, 0], [0, 0, 1], [-1, 0, 0], [0, -1, 0], [0, 0, -1]]) {
      expect(rays.nearest(0.2, 0.3, 0.1, dx, dy, dz, 0, 1e6)).toBe(true);
      expect(rays.nearest(0.2 - dx * 5, 0.3 - dy * 5, 0.1 - dz * 5, dx, dy, dz, 0, 1e6)).toBe(true);
      expect(rays.nearest(0.2 + dx * 5, 0.3 + dy * 5, 0.1 + dz * 5, dx, dy, dz, 0, 1e6)).toBe(false);
    }
  });
  it('panes are passed one by one, walls end the way', () => {
    const pane = (z: number): Shape => ({ kind: 'quad', corner: [-1, -1, z], u: [2, 0, 0], v: [0, 2, 0] });
    const description = scene({ materials: [matt('White', 0.5), { name: 'Glass', number: 2, idColor: null, surface: { kind: 'thin-glass', ior: 1.5, tint: [1, 1, 1] } }], objects: [{ name: 'Panes', material: 'Glass', shapes: [pane(-1), pane(-2), pane(-3)] }, { name: 'Wall', material: 'White', shapes: [pane(-4)] }] });
    const rays = new RayQueries(buildTree(trianglesOf(description), (material) => material === 1, (bytes) => new ArrayBuffer(bytes)), kernelModule());
    const met: number[] = [];
    expect(rays.passage(0.1, 0.2, 0, 0, 0, -1, 0, 3.5, (triangle) => met.push(triangle) > 0)).toBe(true);
    expect(new Set(met).size).toBe(3);
    expect(rays.passage(0.1, 0.2, 0, 0, 0, -1, 0, 2.5, () => false)).toBe(false);
    expect(rays.passage(0.1, 0.2, 0, 0, 0, -1, 0, 5, () => true)).toBe(false);
  });
  it('many triangles in one place still make a tree', () => {
    const same: Shape = { kind: 'quad', corner: [-1, -1, 0], u: [2, 0, 0], v: [0, 2, 0] };
    const many = trianglesOf(scene({ objects: [{ name: 'Pile', material: 'White', shapes: Array.from({ length: 100 }, () => same) }] }));
    const rays = new RayQueries(buildTree(many, () => false, (bytes) => new ArrayBuffer(bytes)), kernelModule());
    expect(rays.nearest(0.1, 0.2, 1, 0, 0, -1, 0, 10)).toBe(true);
    expect(rays.t).toBeCloseTo(1, 6);
  });
});

describe('sampling', () => {
  it('the first 16 pairs fill 16 rows and columns (stratification of Sobol’ sequences)', () => {
    for (const pixel of [0, 7, 99]) {
      const rows = new Set<number>();
      const columns = new Set<number>();
      for (let s = 0; s < 16; s++) {
        const sampler = new Sampler();
        sampler.start(pixel, s, 3);
        rows.add(Math.floor(sampler.next() * 16));
        columns.add(Math.floor(sampler.y * 16));
      }
      expect([rows.size, columns.size]).toEqual([16, 16]);
    }
  });
  it('depends on the pixel, the sample and the seed alone', () => {
    const at = (pixel: number, sample: number, seed: number) => {
      const sampler = new Sampler();
      sampler.start(pixel, sample, seed);
      return [sampler.next(), sampler.y, sampler.next(), sampler.y];
    };
    expect(at(5, 6, 7)).toEqual(at(5, 6, 7));
    expect(at(5, 6, 7)).not.toEqual(at(5, 6, 8));
    expect(at(5, 6, 7)).not.toEqual(at(6, 6, 7));
  });
});

describe('cameras', () => {
  it('rays through the lens spread as far as the blur circle says', () => {
    const view = camera({ at: [0, 0, 0], lookAt: [0, 0, -1], focalMillimetres: 50, focus: { distanceMetres: 2, fNumber: 2.8 } });
    const rays = new CameraRays(view, 360, 240);
    for (const distance of [1, 4]) {
      let widest = 0;
      for (let k = 0; k < 64; k++) {
        rays.aim(0.5, 0.5, 1, k / 64);
        const t = distance / -rays.dz;
        widest = Math.max(widest, 2 * Math.hypot(rays.ox + rays.dx * t, rays.oy + rays.dy * t));
      }
      // From the width on the object's side to the sensor by the image of the plane in focus: f / (s − f) at s, seen from d.
      const onSensor = ((widest / distance) * 2 * 0.05) / (2 - 0.05);
      expect((onSensor * 1000) / blurDiameter(50, 2.8, 2000, distance * 1000)).toBeCloseTo(1, 1.3);
    }
  });
  it('field of view: 2 · atan(d / 2f)', () => {
    const view = camera({ at: [0, 0, 0], lookAt: [0, 0, -1], focalMillimetres: 24 });
    const rays = new CameraRays(view, 360, 240);
    rays.aim(0, 0.5, 0, 0);
    expect((2 * Math.atan2(Math.abs(rays.dx), -rays.dz) * 180) / Math.PI).toBeCloseTo(73.74, 2);
  });
  it('uprights stay parallel when the camera stands upright, and shift moves the horizon', () => {
    const rays = new CameraRays(camera({ at: [0, 1.6, 0], lookAt: [0, 5, -10], upright: true }), 300, 200);
    expect(rays.forward[1]).toBe(0);
    rays.aim(0.5, 0.5, 0, 0);
    expect(rays.dy / -rays.dz).toBeCloseTo(0.34, 6);
    const shifted = new CameraRays(camera({ at: [0, 0, 0], lookAt: [0, 0, -1], shiftMillimetres: 7 }), 300, 200);
    shifted.aim(0.5, 0.5, 0, 0);
    expect(shifted.dy / -shifted.dz).toBeCloseTo(7 / 35, 6);
  });
});

describe('fog', () => {
  // Exponential height fog, τ by adaptive quadrature (SciPy) to 1e-8.
  it.each([
    [0.02, 0, 0, 50, 100, 2],
    [0.02, 2, 0.1, 50, 100, 1.74161578],
    [0.02, 100, -0.5, 50, 200, 1.72932943],
    [0.05, 1.6, 0.0872, 20, 500, 9.38951676],
    [0.01, 10, 0.001, 30, 1000, 7.04720715],
  ])('σ %f, from %f m, rising %f, height %f, length %f', (density, y, dy, height, length, depth) => {
    const fog = { distanceMetres: 1 / density, heightMetres: height, color: [1, 1, 1] as Triple, forwardness: 0 };
    expect(fogDepth(fog, y, dy, length)).toBeCloseTo(depth, 7);
    expect(fogReach(fog, y, dy, depth)).toBeCloseTo(length, 3);
  });
  it('even fog follows Beer–Lambert', () => {
    const fog = { distanceMetres: 1000, heightMetres: null, color: [1, 1, 1] as Triple, forwardness: 0 };
    expect(Math.exp(-fogDepth(fog, 3, 0.2, 100))).toBeCloseTo(0.904837, 6);
    expect(Math.exp(-fogDepth(fog, 3, 0.2, 1000))).toBeCloseTo(0.367879, 6);
  });
  it('a fog render covers as much as Beer–Lambert says, and its light is single scattering of the sky', () => {
    const description = scene({ materials: [matt('White', 0.5)], objects: [{ name: 'Wall', material: 'White', shapes: [{ kind: 'quad', corner: [-9000, -9000, -10], u: [18_000, 0, 0], v: [0, 18_000, 0] }] }], cameras: [camera({ at: [0, 0, 0], lookAt: [0, 0, -1] })], sky: { kind: 'uniform', luminance: 100, color: [1, 1, 1] }, fog: { distanceMetres: 5, heightMetres: null, color: [1, 1, 1], forwardness: 0 } });
    const pixel = trace(description, 3, 3, { fog: true }).pixel(1, 1, 2048);
    expect(pixel.mean('alpha')[0]).toBeCloseTo(1 - Math.exp(-2), 2);
    // In front of an endless wall half of all directions see the sky: airlight = L · ½ · (1 − T), as even fog scatters evenly.
    expect(pixel.mean('atmosphere')[0] / (100 * 0.5 * (1 - Math.exp(-2)))).toBeCloseTo(1, 1);
    expectClose(pixel.mean('atmosphere'), pixel.mean('group environment'), 1e-9);
  });
});

describe('light', () => {
  it('white furnace: in a closed room where every wall sends 1 and reflects half, radiance is 2; in even light a white ball vanishes', () => {
    // Radiance L = E + ρL, the classical furnace test of global illumination.
    const ball = scene({ materials: [matt('White', 1)], objects: [{ name: 'Ball', material: 'White', shapes: [{ kind: 'sphere', center: [0, 1, 0], radius: 1, sides: 64 }] }], sky: { kind: 'uniform', luminance: 1, color: [1, 1, 1] } });
    const traced = trace(ball, 9, 9);
    for (const [x, y] of [[4, 4], [5, 4], [0, 0]]) expect(luminance(beautyOf(traced.pixel(x, y, 256)))).toBeCloseTo(1, 2);
    const coated = trace({ ...ball, materials: [{ ...matt('White', 1), surface: { kind: 'metal', color: [1, 1, 1], roughness: 0.3 } }] }, 9, 9);
    const reflected = luminance(beautyOf(coated.pixel(4, 4, 512)));
    expect(reflected).toBeLessThanOrEqual(1.005);
    expect(reflected).toBeGreaterThan(0.95);
    const clear = trace({ ...ball, materials: [{ ...matt('White', 1), surface: { kind: 'solid-glass', ior: 1.5, clearness: [1, 1, 1] } }] }, 9, 9);
    expect(luminance(beautyOf(clear.pixel(4, 4, 512)))).toBeCloseTo(1, 1);
  });
  it('inverse square and cosine of a small lamp', () => {
    // E = I cos θ / d²; seen radiance of a matt surface is ρE/π.
    const lit = (at: Triple) => {
      const description = scene({ materials: [matt('White', 0.5)], lamps: [{ kind: 'sphere', name: 'Lamp', group: null, lumens: 1000, kelvin: 6500, center: at, radius: 0.01 }], cameras: [camera({ at: [0, 3, 0.001], lookAt: [0, 0, 0], focalMillimetres: 200 })] });
      return luminance(trace(description, 5, 5).pixel(2, 2, 256).mean('direct-lighting'));
    };
    const intensity = 1000 / (4 * Math.PI);
    for (const at of [[2, 2, 0], [4, 4, 0], [3, 1, 1]] as Triple[]) {
      const d2 = at[0] ** 2 + at[1] ** 2 + at[2] ** 2;
      expect(lit(at) / ((0.5 / Math.PI) * (intensity / d2) * (at[1] / Math.sqrt(d2)))).toBeCloseTo(1, 1.8);
    }
  });
  it('a rectangular lamp lights the ground as Lambert’s polygon formula says', () => {
    // Lambert 1760: E = (L/2) Σ θ_i n·γ_i over the polygon's edges.
    const corner: Triple = [0.3, 1.5, -0.4];
    const [u, v]: Triple[] = [[1.2, 0, 0], [0, 0, 0.9]];
    const corners = [corner, [corner[0] + u[0], corner[1], corner[2]], [corner[0] + u[0], corner[1], corner[2] + v[2]], [corner[0], corner[1], corner[2] + v[2]]];
    let sum = 0;
    for (let i = 0; i < 4; i++) {
      const a = new Vector3(...(corners[i] as Triple)).normalize();
      const b = new Vector3(...(corners[(i + 1) % 4] as Triple)).normalize();
      sum += a.angleTo(b) * a.cross(b).normalize().y;
    }
    const lumens = 2000;
    const irradiance = ((lumens / (Math.PI * 1.2 * 0.9)) * Math.abs(sum)) / 2;
    const description = scene({ materials: [matt('White', 0.5)], lamps: [{ kind: 'rectangle', name: 'Lamp', group: null, lumens, kelvin: 6500, corner, u, v }], cameras: [camera({ at: [0, 1, 0.001], lookAt: [0, 0, 0], focalMillimetres: 400 })] });
    const found = luminance(trace(description, 5, 5).pixel(2, 2, 4096).mean('direct-lighting'));
    expect(found / ((0.5 / Math.PI) * irradiance)).toBeCloseTo(1, 1.9);
  });
  it('the sun lights level ground with lux · sine of its altitude', () => {
    const description = scene({ materials: [matt('White', 0.5)], sun: { place: 'angles', azimuthDegrees: 30, altitudeDegrees: 40, lux: 50_000, kelvin: 5500, angularDegrees: 0.53 }, cameras: [camera({ at: [0, 1, 0.001], lookAt: [0, 0, 0] })] });
    const found = luminance(trace(description, 5, 5).pixel(2, 2, 64).mean('direct-lighting'));
    expect(found / ((0.5 / Math.PI) * 50_000 * Math.sin((40 * Math.PI) / 180))).toBeCloseTo(1, 2);
  });
  it('a pane lets through what Fresnel leaves, tinted', () => {
    const behind = (withPane: boolean) => {
      const objects: SceneDescription['objects'] = [{ name: 'Wall', material: 'Lit', shapes: [{ kind: 'quad', corner: [-5, -5, -3], u: [10, 0, 0], v: [0, 10, 0] }] }, ...(withPane ? [{ name: 'Pane', material: 'Glass', shapes: [{ kind: 'quad', corner: [-1, -1, -1], u: [2, 0, 0], v: [0, 2, 0] } as Shape] }] : [])];
      return trace(scene({ materials: [{ name: 'Lit', number: 1, idColor: null, surface: { kind: 'luminous', luminance: 100, kelvin: 6500, group: null } }, { name: 'Glass', number: 2, idColor: null, surface: { kind: 'thin-glass', ior: 1.5, tint: [0.5, 1, 1] } }], objects, cameras: [camera({ at: [0, 0, 1], lookAt: [0, 0, 0], focalMillimetres: 400 })] }), 3, 3).pixel(1, 1, 512);
    };
    const bare = behind(false).mean('self-illumination');
    const seen = behind(true).mean('refraction');
    const share = 1 - (2 * 0.04) / 1.04;
    expect(seen[1] / bare[1]).toBeCloseTo(share, 2);
    expect(seen[0] / bare[0]).toBeCloseTo(share * 0.5, 2);
  });
});

describe('how far away is what is seen', () => {
  // Plane mirrors show things as far behind them as these are before them (the law of reflection); a thin pane moves nothing.
  const upright = (z: number, side = 3): Shape => ({ kind: 'quad', corner: [-side, 1 - side, z], u: [2 * side, 0, 0], v: [0, 2 * side, 0] });
  const materials = [matt('White', 0.5), { name: 'Glass', number: 2, idColor: null, surface: { kind: 'thin-glass' as const, ior: 1.5, tint: [1, 1, 1] as Triple } }, { name: 'Mirror', number: 3, idColor: null, surface: { kind: 'metal' as const, color: [0.9, 0.9, 0.9] as Triple, roughness: 0 } }, { name: 'Bronze', number: 4, idColor: null, surface: { kind: 'metal' as const, color: [0.9, 0.9, 0.9] as Triple, roughness: 0.4 } }];
  const seen = (...walls: readonly (readonly [material: string, z: number])[]) => {
    const traced = trace(scene({ materials, objects: walls.map(([material, z], i) => ({ name: `Wall ${i}`, material, shapes: [upright(z, z > 5 ? 90 : 3)] })) }), 5, 5);
    return [[2, 2], [1, 3], [3, 1]].map(([x, y]) => {
      const pixel = traced.pixel(x, y, 32);
      return [pixel.mean('depth')[0], pixel.mean('seen-depth')[0]];
    });
  };
  it('of a wall, through panes, and in a mirror; what only shines a little is itself', () => {
    for (const [depth, sight] of seen(['White', 2])) expectClose([depth, sight], [3, 3], 1e-4);
    for (const [depth, sight] of seen(['Glass', 2], ['White', -1])) expectClose([depth, sight], [3, 6], 1e-4);
    for (const [depth, sight] of seen(['Glass', 3], ['Glass', 2], ['White', -1])) expectClose([depth, sight], [2, 6], 0.35);
    for (const [depth, sight] of seen(['Mirror', 2], ['White', 9])) expectClose([depth, sight], [3, 10], 1e-3);
    for (const [depth, sight] of seen(['Bronze', 2], ['White', 9])) expectClose([depth, sight], [3, 3], 1e-4);
  });
  it('of the sky in glass is very far', () => {
    for (const [depth, sight] of seen(['Glass', 2])) {
      expect(depth).toBeCloseTo(3, 4);
      expect(sight).toBeGreaterThan(80_000);
    }
  });
});

describe('the parts of one sample', () => {
  const traced = trace(variedScene(), 24, 16);
  const groups = lightGroups(traced.world.scene).map((group) => `group ${group}`);
  it('elements sum to the beauty, and so do the light groups, in every pixel', () => {
    for (let y = 0; y < 16; y++) {
      for (let x = 0; x < 24; x++) {
        const pixel = traced.pixel(x, y, 4);
        const beauty = beautyOf(pixel);
        expectClose(groups.map((group) => pixel.mean(group)).reduce((sum, light) => sum.map((v, c) => v + light[c])), beauty, 1e-9, `pixel ${x}, ${y}`);
      }
    }
  });
  it('every kind of path occurs, and every group', () => {
    const found = new Set<string>();
    for (let y = 0; y < 16; y++) for (let x = 0; x < 24; x++) {
      const pixel = traced.pixel(x, y, 8);
      for (const slot of [...PATHS, ...groups]) if (luminance(pixel.mean(slot)) > 0) found.add(slot);
    }
    expect([...PATHS, ...groups].filter((slot) => !found.has(slot))).toEqual(['atmosphere']);
  });
  it('direct light and shadow are the light without anything in between', () => {
    // The same ground with and without a roof over it: what the roof takes is the shadow.
    const sun = { place: 'angles', azimuthDegrees: 0, altitudeDegrees: 60, lux: 1000, kelvin: 5500, angularDegrees: 0.5 } as const;
    const roof: Shape = { kind: 'box', min: [-3, 2, -3], max: [3, 2.1, 3] };
    const view = [camera({ at: [0, 1, 0.001], lookAt: [0, 0, 0] })];
    const open = trace(scene({ sun, cameras: view }), 3, 3).pixel(1, 1, 32);
    const covered = trace(scene({ sun, cameras: view, objects: [ground('White'), { name: 'Roof', material: 'White', shapes: [roof] }] }), 3, 3).pixel(1, 1, 32);
    expectClose(covered.mean('direct-lighting').map((v, c) => v + covered.mean('shadow')[c]), open.mean('direct-lighting'), 1e-6);
    expect(luminance(open.mean('shadow'))).toBe(0);
    expect(luminance(covered.mean('direct-lighting'))).toBe(0);
  });
  it('occlusion is 1 in the open and half in a right corner', () => {
    const corner = scene({ objects: [ground('White'), { name: 'Wall', material: 'White', shapes: [{ kind: 'quad', corner: [-50, -50, 0], u: [100, 0, 0], v: [0, 100, 0] }] }], cameras: [camera({ at: [0, 1, 0.05], lookAt: [0, 0, 0.05], focalMillimetres: 1000 })] });
    expect(trace(corner, 1, 1, { aoMetres: 100 }).pixel(0, 0, 4096).mean('ambient-occlusion')[0]).toBeCloseTo(0.5, 1.5);
    const open = scene({ cameras: [camera({ at: [0, 1, 0.001], lookAt: [0, 0, 0] })] });
    expect(trace(open, 1, 1).pixel(0, 0, 64).mean('ambient-occlusion')[0]).toBe(1);
  });
  it('depth is along the view, distance along the ray; normals look at the viewer’s side', () => {
    const wall = scene({ objects: [{ name: 'Wall', material: 'White', shapes: [{ kind: 'quad', corner: [-50, -50, -4], u: [100, 0, 0], v: [0, 100, 0] }] }], cameras: [camera({ at: [0, 0, 0], lookAt: [0, 0, -1] })] });
    const pixel = trace(wall, 101, 101).pixel(100, 50, 16);
    expect(pixel.mean('depth')[0]).toBeCloseTo(4, 5);
    expect(pixel.mean('distance')[0]).toBeGreaterThan(4.3);
    expectClose(pixel.mean('normals'), [0, 0, 1], 1e-6);
  });
});
