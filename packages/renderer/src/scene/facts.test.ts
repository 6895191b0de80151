import { cameraFromFacts, type Camera, projected, viewOfCamera } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { seeded } from '../../../../tests/random.ts';
import { camera } from '../../../../tests/scenes.ts';
import { CameraRays } from '../trace/camera.ts';
import { cameraFactsOf, cameraOfScene } from './facts.ts';

const size = { width: 300, height: 200 };

describe('the camera of a scene as a document knows it', () => {
  it('sees a place where the rays of the render went (seed 66)', () => {
    const random = seeded(66);
    for (let i = 0; i < 60; i++) {
      const within = (low: number, high: number) => low + random() * (high - low);
      const own = camera({ at: [within(-9, 9), within(0.5, 9), within(-9, 9)], lookAt: [within(-9, 9), within(0.5, 9), within(-9, 9)], upright: i % 2 === 0, shiftMillimetres: within(-6, 6), focalMillimetres: within(15, 70) });
      const rays = new CameraRays(own, size.width, size.height);
      const view = viewOfCamera(cameraOfScene(own), size);
      const [u, v] = [random(), random()];
      rays.aim(u, v, 0, 0);
      const far = within(1, 60);
      const found = projected(view, [rays.ox + rays.dx * far, rays.oy + rays.dy * far, rays.oz + rays.dz * far]);
      expectClose([found?.x ?? 0, found?.y ?? 0], [u * size.width, v * size.height], 1e-6, `camera ${i}`);
    }
  });
  it('looks straight down as well', () => {
    const own = camera({ at: [1, 8, 2], lookAt: [1, 0, 2], upright: true });
    const rays = new CameraRays(own, size.width, size.height);
    rays.aim(0.2, 0.7, 0, 0);
    const found = projected(viewOfCamera(cameraOfScene(own), size), [rays.ox + rays.dx * 5, rays.oy + rays.dy * 5, rays.oz + rays.dz * 5]);
    expectClose([found?.x ?? 0, found?.y ?? 0], [60, 140], 1e-6);
  });
  it('is what a file gives back, with focus and exposure where the scene knows them', () => {
    const own = camera({ at: [1, 1.6, 9], lookAt: [0, 4, 0], upright: true, focus: { distanceMetres: 6, fNumber: 2 }, exposure: { kind: 'settings', fNumber: 2, shutterSeconds: 1 / 60, iso: 200 } });
    const found = cameraFromFacts(cameraFactsOf(own, size), size) as Camera;
    const { up, ...numbers } = cameraOfScene(own);
    expect([found.up, up]).toEqual(['y', 'y']);
    for (const [name, value] of Object.entries(numbers)) expectClose([found[name as keyof Camera] as number], [value as number], 1e-9, name);
    expect(found).toMatchObject({ focusMetres: 6, fNumber: 2, iso: 200 });
  });
});
