/** Rows of the renderer: rays against three-mesh-bvh's own loop, workers against one another, a preview with everything. */
import { readFileSync } from 'node:fs';
import { kilnYard } from '@tazzel/renderer';
import { startNodeRenderer } from '@tazzel/renderer/node';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH, SAH } from 'three-mesh-bvh';
import { trianglesOf } from '../../packages/renderer/src/scene/mesh.ts';
import { buildTree } from '../../packages/renderer/src/trace/bvh.ts';
import { CameraRays } from '../../packages/renderer/src/trace/camera.ts';
import { RayQueries } from '../../packages/renderer/src/trace/queries.ts';
import { compare, median, report, timed } from './measure.ts';

const WIDTH = 640;
const HEIGHT = 427;

/** One ray through the middle of each pixel of the courtyard, single thread on both sides. */
async function cameraRays(dist: URL): Promise<void> {
  const list = trianglesOf(kilnYard);
  const rays = new RayQueries(buildTree(list, () => false, (bytes) => new ArrayBuffer(bytes)), new WebAssembly.Module(readFileSync(new URL('kernels.wasm', dist))));
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(list.corners.slice(), 3));
  const bvh = new MeshBVH(geometry, { strategy: SAH });
  const camera = new CameraRays(kilnYard.cameras[0], WIDTH, HEIGHT);
  const each = (visit: () => boolean) => {
    let hits = 0;
    for (let y = 0; y < HEIGHT; y++) {
      for (let x = 0; x < WIDTH; x++) {
        camera.aim((x + 0.5) / WIDTH, (y + 0.5) / HEIGHT, 0.5, 0.5);
        if (visit()) hits++;
      }
    }
    return hits;
  };
  const ray = new Ray(new Vector3(), new Vector3());
  const ours = () => each(() => rays.nearest(camera.ox, camera.oy, camera.oz, camera.dx, camera.dy, camera.dz, 1e-4, 1e9));
  const theirs = () =>
    each(() => {
      ray.origin.set(camera.ox, camera.oy, camera.oz);
      ray.direction.set(camera.dx, camera.dy, camera.dz);
      return bvh.raycastFirst(ray, DoubleSide, 1e-4, 1e9) !== null;
    });
  if (ours() !== theirs()) throw new Error('the two do not hit the same');
  const result = await compare(async () => void ours(), async () => void theirs(), 5);
  report(`(e) ${WIDTH} × ${HEIGHT} camera rays, ${list.material.length} triangles : three-mesh-bvh’s raycastFirst`, result, 1);
  console.log(`    ${((WIDTH * HEIGHT) / result.ours / 1000).toFixed(2)} against ${((WIDTH * HEIGHT) / result.theirs / 1000).toFixed(2)} million rays a second`);
}

async function workers(dist: URL): Promise<void> {
  const times: number[][] = [[], []];
  const renderers = await Promise.all([2, 1].map((count) => startNodeRenderer({ workers: count, workerUrl: new URL('render-worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist) })));
  for (const renderer of renderers) await renderer.openScene({ description: kilnYard });
  const request = { camera: 'courtyard', width: WIDTH, height: HEIGHT, elements: ['everything'], seed: 1, fog: false, region: null, denoise: 'none', aoMetres: 2, depthRange: null } as const;
  for (let turn = 0; turn < 4; turn++) {
    for (const [i, renderer] of renderers.entries()) {
      const time = await timed(() => renderer.begin({ ...request, quality: { noisePercent: null, seconds: null, samples: 2 } }).finished);
      // The first turn warms up.
      if (turn > 0) times[i].push(time);
    }
  }
  report(`(f) ${WIDTH} × ${HEIGHT}, every element, 2 samples: two workers : one`, { ours: median(times[0]), theirs: median(times[1]), ratio: median(times[0]) / median(times[1]) }, 0.7);
  renderers[1].terminate();
  const [renderer] = renderers;
  const noisy = await timed(() => renderer.begin({ ...request, quality: { noisePercent: null, seconds: null, samples: 8 } }).finished);
  const clean = await timed(() => renderer.begin({ ...request, denoise: 'all', quality: { noisePercent: null, seconds: null, samples: 8 } }).finished);
  const beauty = await timed(() => renderer.begin({ ...request, elements: ['beauty'], quality: { noisePercent: null, seconds: null, samples: 8 } }).finished);
  console.log(`(g) preview ${WIDTH} × ${HEIGHT}, 8 samples, two workers: ${(noisy / 1000).toFixed(1)} s with every element, ${(beauty / 1000).toFixed(1)} s with the beauty alone (ratio ${(noisy / beauty).toFixed(2)}); ${((clean - noisy) / 1000).toFixed(1)} s more for the denoiser`);
  renderer.terminate();
}

export async function benchRenderer(dist: URL): Promise<void> {
  await cameraRays(dist);
  await workers(dist);
}
