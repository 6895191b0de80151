import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtRenderer, camera, ground, matt, scene, variedScene } from '../../../../tests/scenes.ts';
import { meansOf, resolveElement } from '../elements/resolve.ts';
import { passEnd } from './job.ts';
import type { Renderer } from './renderer.ts';
import type { RenderRequest } from './request.ts';

const request: RenderRequest = { camera: 'camera', width: 100, height: 70, elements: ['everything'], quality: { noisePercent: null, seconds: null, samples: 4 }, seed: 11, fog: false, region: null, denoise: 'none', aoMetres: 1, depthRange: null };

describe('passes', () => {
  it('double until 16, then grow by halves', () => {
    const ends = [0];
    while (ends[ends.length - 1] < 200) ends.push(passEnd(ends[ends.length - 1]));
    expect(ends).toEqual([0, 1, 2, 4, 8, 16, 24, 32, 48, 64, 96, 128, 192, 256]);
  });
});

describe('rendering', () => {
  let renderer: Renderer;
  beforeAll(async () => {
    renderer = await builtRenderer();
    await renderer.openScene({ description: variedScene() });
  });
  afterAll(() => renderer.terminate());
  const rendered = async (from: Renderer, patch: Partial<RenderRequest> = {}) => {
    const job = from.begin({ ...request, ...patch });
    await job.finished;
    return job;
  };

  it('the same picture with one, two and three workers, by samples and by noise', async () => {
    for (const quality of [request.quality, { noisePercent: 14, seconds: null, samples: 24 }]) {
      const small = { width: 48, height: 32, quality, elements: ['beauty', 'light-group', 'crypto-object', 'normals'] };
      const first = await rendered(renderer, small);
      for (const workers of [1, 3]) {
        const other = await builtRenderer({ workers });
        await other.openScene({ description: variedScene() });
        const job = await rendered(other, small);
        expect(job.progress.samplesPerPixel).toBe(first.progress.samplesPerPixel);
        for (const [name, planes] of Object.entries(first.rendering.film.planes)) for (const [c, plane] of planes.entries()) expect(Buffer.compare(Buffer.from(plane.buffer), Buffer.from(job.rendering.film.planes[name][c].buffer)), `${name} ${c}, ${workers} workers`).toBe(0);
        other.terminate();
      }
    }
  });
  it('another seed gives other noise', async () => {
    const [a, b] = [await rendered(renderer), await rendered(renderer, { seed: 12 })];
    expect(meansOf(a.rendering.film, 'gi')).not.toEqual(meansOf(b.rendering.film, 'gi'));
  });
  it('a noise limit is kept, and costs more when it is lower', async () => {
    const [coarse, fine] = [await rendered(renderer, { quality: { noisePercent: 20, seconds: null, samples: null } }), await rendered(renderer, { quality: { noisePercent: 8, seconds: null, samples: null } })];
    expect(coarse.progress.noisePercent).toBeLessThanOrEqual(20);
    expect(fine.progress.noisePercent).toBeLessThanOrEqual(8);
    expect(fine.progress.samplesPerPixel).toBeGreaterThan(coarse.progress.samplesPerPixel);
    expect(fine.endedEarly).toBe(false);
  });
  it('the noise that is told is the noise there is: two seeds differ by √2 of it', async () => {
    const quality = { noisePercent: null, seconds: null, samples: 32 };
    const [a, b] = [await rendered(renderer, { quality, elements: ['beauty'] }), await rendered(renderer, { quality, elements: ['beauty'], seed: 99 })];
    const [x, y] = [a, b].map((job) => resolveElement(job.rendering, 'beauty', false)[0].channels.map(({ data }) => data));
    let sum = 0;
    for (let i = 0; i < x[0].length; i++) {
      const light = (p: readonly Float32Array[]) => 0.2126 * p[0][i] + 0.7152 * p[1][i] + 0.0722 * p[2][i];
      sum += Math.abs(light(x) - light(y)) / Math.SQRT2 / ((light(x) + light(y)) / 2 + 0.05);
    }
    // Mean of |N(0, 1)| is √(2/π). Sobol' points do better than the estimate from independent samples.
    const found = (sum / x[0].length / Math.sqrt(2 / Math.PI)) * 100;
    expect(found).toBeLessThan((a.progress.noisePercent ?? 0) * 1.2);
    expect(found).toBeGreaterThan((a.progress.noisePercent ?? 0) * 0.3);
  });
  it('stopped, it keeps what it has, and it can be saved', async () => {
    const job = renderer.begin({ ...request, quality: { noisePercent: null, seconds: null, samples: 5000 } }, { onTile: () => job.stop() });
    await job.finished;
    expect(job.endedEarly).toBe(true);
    expect(job.progress.samplesPerPixel).toBeGreaterThan(0);
    const { files } = await job.save(['beauty', 'crypto-object', 'depth'], { layout: 'multi-part', bits: 16, clean: true }, 'partial');
    expect(files[0].parts.reduce((sum, part) => sum + part.length, 0)).toBeGreaterThan(1000);
  });
  it('goes without the denoiser when told so; without it there is no denoised beauty', async () => {
    const job = renderer.begin({ ...request, denoise: 'all' }, { onProgress: ({ stage }) => void (stage === 'denoising' && job.stop()) });
    await job.finished;
    expect(job.isClean).toBe(false);
    expect(job.rendering.denoised).toEqual({});
    expect((await rendered(renderer)).request.elements).not.toContain('denoised-beauty');
    expect(() => renderer.begin({ ...request, elements: ['denoised-beauty'] })).toThrow(/needs the denoiser/);
  });
  it('ends when the time is up', async () => {
    const job = await rendered(renderer, { quality: { noisePercent: null, seconds: 0.5, samples: null } });
    expect(job.endedEarly).toBe(true);
  });
  it('a region renders that part as in the whole picture', async () => {
    const region = { x: 31, y: 20, width: 37, height: 25 };
    const [whole, part] = [await rendered(renderer, { elements: ['beauty'] }), await rendered(renderer, { elements: ['beauty'], region })];
    const [a, b] = [whole, part].map((job) => resolveElement(job.rendering, 'beauty', false, region)[0].channels[1].data);
    expect([...b]).toEqual([...a]);
    expect(resolveElement(part.rendering, 'beauty', false)[0].channels[1].data[0]).toBe(0);
  });
  it('the denoiser takes noise away and keeps edges', async () => {
    const truth = await rendered(renderer, { elements: ['beauty', 'gi'], quality: { noisePercent: null, seconds: null, samples: 192 } });
    const job = await rendered(renderer, { elements: ['beauty', 'denoised-beauty', 'gi', 'diffuse-filter'], denoise: 'all', quality: { noisePercent: null, seconds: null, samples: 16 } });
    const error = (id: string, of: string) => {
      const [found, wanted] = [resolveElement(job.rendering, id, true)[0], resolveElement(truth.rendering, of, false)[0]].map(({ channels }) => channels[1].data);
      return Math.sqrt(found.reduce((sum, v, i) => sum + (Math.min(1, v) - Math.min(1, wanted[i])) ** 2, 0) / found.length);
    };
    const noisyGi = resolveElement(job.rendering, 'gi', false)[0].channels[1].data;
    const trueGi = resolveElement(truth.rendering, 'gi', false)[0].channels[1].data;
    const before = Math.sqrt(noisyGi.reduce((sum, v, i) => sum + (Math.min(1, v) - Math.min(1, trueGi[i])) ** 2, 0) / noisyGi.length);
    expect(error('gi', 'gi')).toBeLessThan(before * 0.6);
    expect(error('denoised-beauty', 'beauty')).toBeLessThan(error('beauty', 'beauty') * 0.85);
  });
  it('automatic exposure puts the metered mean near 18 %; stops correct it', async () => {
    const open = { ...request, elements: ['beauty'], camera: camera({ at: [0, 1.3, 5], lookAt: [0, 1, 0], exposure: { kind: 'automatic', stops: 0 } }) } as const;
    const [plain, brighter] = [await rendered(renderer, open), await rendered(renderer, { ...open, camera: { ...open.camera, exposure: { kind: 'automatic', stops: 1 } } })];
    const [, green] = resolveElement(plain.rendering, 'beauty', false)[0].channels;
    const mean = Math.exp(green.data.reduce((sum, v) => sum + Math.log(Math.max(v, 0.004)), 0) / green.data.length);
    expect(mean).toBeGreaterThan(0.08);
    expect(mean).toBeLessThan(0.36);
    expect((plain.exposureEv ?? 0) - (brighter.exposureEv ?? 0)).toBeCloseTo(1, 9);
  });
  it('fog is a set of its own in front of black surfaces', async () => {
    const job = await rendered(renderer, { fog: true, denoise: 'all' });
    expect(job.request.elements).toEqual(['alpha', 'atmosphere', 'light-group']);
    const [alpha] = meansOf(job.rendering.film, 'alpha');
    expect(Math.max(...alpha)).toBeLessThanOrEqual(1);
    // The nearest ground is in front of less fog than the horizon.
    expect(alpha[69 * 100 + 50]).toBeLessThan(alpha[35 * 100 + 99]);
  });

  it.each([
    ['a camera that is not there', { camera: 'north' }, /has no camera “north”. Cameras: camera/],
    ['no pixels', { width: 0 }, /0 × 70 pixels is not possible/],
    ['too many pixels', { width: 16_000, height: 16_000 }, /not possible: each side needs/],
    ['no limit', { quality: { noisePercent: null, seconds: null, samples: null } }, /Say when the render is done/],
    ['a limit of nothing', { quality: { noisePercent: 0, seconds: null, samples: null } }, /noise limit must be more than 0/],
    ['a region outside', { region: { x: 500, y: 0, width: 10, height: 10 } }, /lies outside/],
    ['an unknown element', { elements: ['glitter'] }, /no element “glitter”/],
    ['a camera that looks nowhere', { camera: camera({ lookAt: [0, 1, 5] }) }, /lookAt is where the camera stands/],
  ] as [string, Partial<RenderRequest>, RegExp][])('refuses %s', (_what, patch, sentence) => expect(() => renderer.begin({ ...request, ...patch })).toThrow(sentence));
  it('refuses beforehand what does not fit into memory, with the figure', async () => {
    const small = await builtRenderer({ workers: 1, budgetBytes: 64 * 2 ** 20 });
    await small.openScene({ description: variedScene() });
    expect(() => small.begin({ ...request, width: 4000, height: 3000 })).toThrow(/needs \d+\.\d GB of memory, 64 MB are allowed. Choose a smaller size or fewer elements/);
    small.terminate();
  });
  it('refuses fog where the scene has none, and rendering without a scene', async () => {
    const other = await builtRenderer({ workers: 1 });
    expect(() => other.begin(request)).toThrow(/No scene is open/);
    await other.openScene({ description: scene({ materials: [matt('White', 0.5)], objects: [ground('White')] }) });
    expect(() => other.begin({ ...request, fog: true })).toThrow(/describes no fog/);
    other.terminate();
    await expect(other.openScene({ description: scene() })).rejects.toThrow(/closed/);
  });
});
