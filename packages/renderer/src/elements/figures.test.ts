/** Figures of a document against flat figures that the renderer traced in the scene: where their shadows fall, how long and how dark they are, and what hides them. */
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { builtRenderer, camera, ground, matt, scene } from '../../../../tests/scenes.ts';
import { emptyDocument, floatToHalf, groundAt, type PlacedFigure, planDocument, type Source, type SourceView, type TazzelDocument, viewOfCamera, cameraOf } from '@tazzel/core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Renderer } from '../render/renderer.ts';
import type { ObjectDescription } from '../scene/model.ts';
import { resolveElement } from './resolve.ts';

const SIZE = { width: 240, height: 160 };
const AREA = SIZE.width * SIZE.height;
const EYE = [0, 1.6, 9] as const;
const [TALL, WIDE] = [1.75, 0.6];
const FOOT = [-0.5, 0, 1] as const;
/** The sky is infinitely far. */
const SKY_METRES = 1e4;
const SUN = { azimuthDegrees: 250, altitudeDegrees: 35 };

let renderer: Renderer;
beforeAll(async () => {
  renderer = await builtRenderer();
});
afterAll(() => renderer.terminate());

/** A flat figure with its back to the sun, or its face to the camera. */
function flat(faces: 'sun' | 'camera'): ObjectDescription {
  const angle = (SUN.azimuthDegrees * Math.PI) / 180;
  const [rx, rz] = faces === 'camera' ? [1, 0] : [Math.cos(angle), Math.sin(angle)];
  return { name: 'Figure', material: 'Figure', shapes: [{ kind: 'quad', corner: [FOOT[0] - (rx * WIDE) / 2, 0, FOOT[2] - (rz * WIDE) / 2], u: [rx * WIDE, 0, rz * WIDE], v: [0, TALL, 0] }] };
}

async function rendered(objects: readonly ObjectDescription[]) {
  const description = scene({
    materials: [matt('Ground', 0.4, 1), matt('Figure', 0.02, 2), matt('Wall', 0.5, 3)],
    objects: [ground('Ground'), ...objects],
    sun: { place: 'angles', ...SUN, lux: 60_000, kelvin: 5200, angularDegrees: 0.53 },
    sky: { kind: 'daylight', turbidity: 3, lux: 12_000, clouds: 0 },
    cameras: [camera({ at: EYE, lookAt: [0, 1.6, 0], focalMillimetres: 28, exposure: { kind: 'settings', fNumber: 11, shutterSeconds: 1 / 100, iso: 100 } })],
  });
  await renderer.openScene({ description });
  const job = renderer.begin({ camera: 'camera', ...SIZE, elements: ['beauty', 'diffuse-filter', 'depth', 'normals', 'light-group', 'material-id'], quality: { noisePercent: null, seconds: null, samples: 32 }, seed: 5, fog: false, region: null, denoise: 'none', aoMetres: 1, depthRange: null });
  await job.finished;
  return (id: string) => resolveElement(job.rendering, id, false).map(({ name, channels }) => ({ name, planes: channels.map(({ data }) => data) }));
}
type Elements = Awaited<ReturnType<typeof rendered>>;

/** The document of a render with one flat figure in it, and what its elements hold. */
function withFigure(elements: Elements, patch: Partial<PlacedFigure>): { document: TazzelDocument; views: Record<string, SourceView> } {
  const views: Record<string, SourceView> = {};
  const sources: Source[] = [];
  const add = (planes: readonly ArrayLike<number>[], alpha: ArrayLike<number> | null, size: { width: number; height: number }, more: Partial<Source>) => {
    const made = source(sources.length + 1, { ...size, ...more, alphaChannel: alpha ? 'A' : null, alpha: alpha ? 'straight' : 'none' });
    const plane = (data: ArrayLike<number>) => ({ type: 'f16' as const, ...size, data: Uint16Array.from(data, floatToHalf) });
    views[made.id] = { color: planes.map(plane), alpha: alpha && plane(alpha), premultiplied: false, x: 0, y: 0 };
    sources.push(made);
    return made;
  };
  const of = (id: string) => elements(id)[0].planes;
  const beauty = add(of('beauty'), null, SIZE, { role: 'beauty' });
  add(of('diffuse-filter'), null, SIZE, { role: 'diffuse-filter', inSum: 'out' });
  add(of('depth'), null, SIZE, { role: 'depth', encoding: 'data' });
  add(of('normals'), null, SIZE, { role: 'normals', encoding: 'data' });
  for (const { name, planes } of elements('light-group')) add(planes, null, SIZE, { role: 'light-group', name });
  const box = { width: 60, height: 175 };
  const all = new Float32Array(box.width * box.height);
  const cut = add([all.fill(0.02), all, all], new Float32Array(all.length).fill(1), box, { role: 'picture', inSum: 'out' });
  const view = viewOfCamera(cameraOf({ from: 'hand', params: CAMERA }), SIZE);
  const depth = EYE[2] - FOOT[2];
  const at = [view.axisX + (FOOT[0] / depth) * view.focalPx, view.axisY + (EYE[1] / depth) * view.focalPx] as const;
  const document = after(
    emptyDocument('figures', 'Figures', SIZE),
    { type: 'add-sources', sources },
    { type: 'add-layer', layer: 'element', params: { source: beauty.id }, zone: 'scene' },
    { type: 'set-camera', params: CAMERA },
    { type: 'set-sun', params: { place: 'angles', ...SUN } },
    { type: 'add-figures', figures: [{ sourceId: cut.id, at, groundMetres: 0, heightMetres: TALL, mirrored: false, leanDegrees: 0, foot: [0.5, 1], top: 0, ...patch }] },
  );
  return { document, views };
}
const CAMERA = { focalMillimetres: 28, sensorMillimetres: 36, heightMetres: EYE[1], southMetres: EYE[2], eastMetres: EYE[0], headingDegrees: 0, tiltDegrees: 0 };

function drawn({ document, views }: ReturnType<typeof withFigure>): Float32Array {
  const plan = planDocument(document);
  const { pixels } = draw(plan, { target: { place: plan.light, tone: null, focus: null }, source: (id) => views[id], mask: () => { throw new Error('There is none.'); } });
  return pixels.planes;
}

/** The figure as a black outline, without any shadow. */
const plain = ({ document, views }: ReturnType<typeof withFigure>) => ({ document: after(document, { type: 'set-params', layerId: document.buildUp.scene[1].id, params: { style: 'silhouette', styleColor: [0, 0, 0], shadowPercent: 0, contactPercent: 0 } }), views });

it('throws the shadow that a traced figure throws: direction to 1°, length to 2 %, darkness to a tenth', async () => {
  const [empty, traced] = [await rendered([]), await rendered([flat('sun')])];
  const made = withFigure(empty, {});
  const ours = drawn(made);
  // The figure itself covers some of the ground.
  const bare = drawn(plain(made));
  const [before, theirs] = [empty('beauty')[0].planes[1], traced('beauty')[0].planes[1]];
  const view = viewOfCamera(cameraOf({ from: 'hand', params: CAMERA }), SIZE);
  const [idsBefore, ids] = [empty('material-id')[0].planes[0], traced('material-id')[0].planes[0]];
  const onGround = (i: number) => Math.abs(ids[i] - idsBefore[i]) < 1e-6 && Math.abs(bare[AREA + i] / before[i] - 1) < 0.01;
  /** Where on the ground light is missing, and how much of it. */
  const shadowOf = (after: ArrayLike<number>) =>
    Array.from({ length: AREA }, (_, i) => ({ i, place: groundAt(view, (i % SIZE.width) + 0.5, Math.floor(i / SIZE.width) + 0.5), lost: 1 - after[i] / before[i] })).filter(({ i, place, lost }) => place && onGround(i) && Math.hypot(place[0], place[2]) < 12 && lost > 0.3);
  const figures = [shadowOf(ours.subarray(AREA, 2 * AREA)), shadowOf(theirs)].map((shadow) => {
    const away = shadow.map(({ place }) => [(place?.[0] ?? 0) - FOOT[0], (place?.[2] ?? 0) - FOOT[2]] as const).filter(([x, z]) => Math.hypot(x, z) > 0.8);
    const [x, z] = away.reduce(([a, b], [c, d]) => [a + c, b + d], [0, 0]);
    const lengths = away.map(([a, b]) => Math.hypot(a, b)).toSorted((a, b) => a - b);
    return { count: shadow.length, degrees: (Math.atan2(x, -z) * 180) / Math.PI, length: lengths[Math.floor(lengths.length * 0.98)], lost: shadow.reduce((sum, { lost }) => sum + lost, 0) / shadow.length };
  });
  const [our, their] = figures;
  expect(their.count).toBeGreaterThan(60);
  expect(Math.abs(our.degrees - their.degrees)).toBeLessThan(1);
  expect(Math.abs(our.length / their.length - 1)).toBeLessThan(0.02);
  expect(Math.abs(our.lost / their.lost - 1)).toBeLessThan(0.1);
}, 60_000);

it('is hidden by what stands before it as a traced figure is, and covers what it covers', async () => {
  const post: ObjectDescription = { name: 'Post', material: 'Wall', shapes: [{ kind: 'box', min: [-0.75, 0, 2], max: [-0.45, 1.2, 2.2] }] };
  const [empty, traced] = [await rendered([post]), await rendered([post, flat('camera')])];
  const made = withFigure(empty, {});
  // What of the picture becomes black is the figure's share of each pixel.
  const ours = drawn(plain(made));
  const before = empty('beauty')[0].planes[1];
  const [farther, metres] = [empty('depth')[0].planes[0], traced('depth')[0].planes[0]];
  let [both, either] = [0, 0];
  for (let i = 0; i < AREA; i++) {
    const isOurs = ours[AREA + i] < before[i] * 0.5;
    // Depths are means over a pixel: half of the way from what lay behind.
    const behind = Math.min(SKY_METRES, farther[i]);
    const isTheirs = behind - Math.min(SKY_METRES, metres[i]) > (behind - (EYE[2] - FOOT[2])) * 0.5 && behind > EYE[2] - FOOT[2];
    if (isOurs && isTheirs) both++;
    if (isOurs || isTheirs) either++;
  }
  expect(both).toBeGreaterThan(150);
  // Pixels half of sky have no depth at all, so its head counts as a little narrower.
  expect(both / either).toBeGreaterThan(0.9);
}, 60_000);
