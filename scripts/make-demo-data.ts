/**
 * Makes the demo: `npm run demo-data` renders the element sets of the Kiln Yard Library and makes the documents that open
 * with them, into apps/web/public/demo. The seed is fixed and the number of samples, too; anyone gets the same pixels.
 * `--documents` makes the documents alone, from the files that are there; `--set NAME` renders one set again before; `--into FOLDER` works there.
 */
import { mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { deflateSync } from 'node:zlib';
import { addElements, applyEdit, asPicture, type Edit, emptyDocument, FIGURE_SHELF, findMask, freshIds, halfToFloat, type KeptValues, layersInOrder, materialTerm, type MaskTerm, newTerm, roleNature, type SceneFacts, shelfFigure, shelfSky, SKY_SHELF, sceneryPlace, type Source, standingAt, type TazzelDocument } from '@tazzel/core';
import { startNodeEngine } from '@tazzel/engine/node';
import { attributesOf, encodeExr, type ExrChannelData, sourcesFromReport } from '@tazzel/formats';
import { Kernels } from '@tazzel/kernels';
import { type CameraDescription, cameraFactsOf, chooseElements, defaultRequest, type ElementPicture, type IdRow, kilnYard, materialIds, nameOfColor, objectIds, resolveElement, towardsSun } from '@tazzel/renderer';
import { startNodeRenderer } from '@tazzel/renderer/node';

// Anything else is refused: rendering takes an hour and writes over what is there.
const { values: asked } = parseArgs({ options: { documents: { type: 'boolean' }, set: { type: 'string' }, into: { type: 'string' } } });
const folder = asked.into ?? fileURLToPath(new URL('../apps/web/public/demo/', import.meta.url));
const shelfFolder = fileURLToPath(new URL('../apps/web/public/figures/', import.meta.url));
const dist = new URL('../apps/cli/dist/', import.meta.url);

/** Who is in the yard in the late sun: the places of their feet, as shares of the picture. */
const LATE_PEOPLE = [['couple', 0.55, 0.8], ['woman-towards', 0.7, 0.835], ['parent-and-child', 0.46, 0.862], ['cyclist', 0.33, 0.82], ['man-standing', 0.618, 0.75], ['talking', 0.755, 0.75], ['woman-away', 0.5, 0.765], ['dog', 0.425, 0.885]] as const;
const kernelsUrl = new URL('kernels.wasm', dist);

const PATHS = ['direct-lighting', 'gi', 'reflection', 'refraction', 'specular', 'self-illumination', 'background'];
const SETS = [
  { name: 'courtyard', camera: 'courtyard', fog: false, width: 1200, height: 800, samples: 40, elements: ['denoised-beauty', 'alpha', ...PATHS, 'diffuse-filter', 'raw-lighting', 'ambient-occlusion', 'depth', 'material-id', 'material-id-through-glass', 'crypto-material', 'light-group'] },
  { name: 'courtyard_fog', camera: 'courtyard', fog: true, width: 1200, height: 800, samples: 24, elements: ['atmosphere', 'alpha'] },
  { name: 'courtyard_geometry', camera: 'courtyard', fog: false, width: 1200, height: 800, samples: 24, elements: ['normals', 'object-id'] },
  { name: 'courtyard_shadow', camera: 'courtyard', fog: false, width: 1200, height: 800, samples: 40, elements: ['shadow', 'raw-shadow'] },
  { name: 'reading-room', camera: 'reading-room', fog: false, width: 1050, height: 700, samples: 64, elements: ['denoised-beauty', 'alpha', ...PATHS, 'diffuse-filter', 'ambient-occlusion', 'depth', 'material-id', 'light-group'] },
] as const;

async function renderSets(sets: readonly (typeof SETS)[number][]): Promise<void> {
  const renderer = await startNodeRenderer({ workerUrl: new URL('render-worker.mjs', dist), kernelsUrl });
  try {
    const kernels = await Kernels.create(await WebAssembly.compile(readFileSync(kernelsUrl)));
    await renderer.openScene({ description: kilnYard });
    mkdirSync(folder, { recursive: true });
    for (const { name } of sets) for (const file of filesOf(name)) rmSync(join(folder, file));
    for (const { name, elements, samples, ...view } of sets) {
      const job = renderer.begin(
        { ...defaultRequest, ...view, elements: chooseElements(elements, view.fog), quality: { noisePercent: null, seconds: null, samples } },
        { onProgress: ({ stage, share, secondsLeft }) => void (process.stdout.isTTY && process.stdout.write(`\r${name}: ${stage} ${Math.round(share * 100)} %, ${Math.ceil(secondsLeft ?? 0)} s left   `)) },
      );
      await job.finished;
      console.log(`${name}: noise before the denoiser ${job.progress.noisePercent?.toFixed(1)} %, ${job.progress.seconds.toFixed(0)} s`);
      await writeSet(name, job.request.elements.flatMap((id) => resolveElement(job.rendering, id, true)), job.rendering.camera, view, kernels);
    }
  } finally {
    renderer.terminate();
  }
}

/** A set in files of at most this size, which travel better than one large one. */
const LARGEST_FILE = 4_000_000;

/** Writes the elements in their order into as few files as hold them: name.exr, or name_1.exr, name_2.exr … */
async function writeSet(name: string, pictures: readonly ElementPicture[], camera: CameraDescription, size: { width: number; height: number }, kernels: Kernels): Promise<void> {
  const window = { x: 0, y: 0, ...size };
  const numbers = attributesOf(cameraFactsOf(camera, size), towardsSun(kilnYard));
  const encode = async (some: readonly ElementPicture[]): Promise<Buffer> => {
    const parts = some.map((picture) => ({ name: picture.name, dataWindow: window, displayWindow: window, compression: 'ZIP' as const, numbers, notes: picture.notes, channels: channelsOf(picture, kernels) }));
    return Buffer.concat(await encodeExr(parts, { deflate: (raw) => deflateSync(raw, { level: 9 }) }, kernels));
  };
  const files: ElementPicture[][] = [];
  let filled = LARGEST_FILE;
  for (const picture of pictures) {
    const bytes = (await encode([picture])).length;
    if (filled + bytes > LARGEST_FILE) {
      files.push([]);
      filled = 0;
    }
    files[files.length - 1].push(picture);
    filled += bytes;
  }
  for (const [index, some] of files.entries()) {
    const file = files.length === 1 ? `${name}.exr` : `${name}_${index + 1}.exr`;
    writeFileSync(join(folder, file), await encode(some));
    console.log(`${file}: ${(statSync(join(folder, file)).size / 2 ** 20).toFixed(1)} MB: ${some.map((picture) => picture.name).join(', ')}`);
  }
}

/** The set's files that writeSet made, in their order. */
const filesOf = (name: string): string[] => readdirSync(folder).filter((file) => new RegExp(`^${name}(_\\d+)?\\.exr$`).test(file)).sort();

/** Light below this is not told apart: noise that no screen shows would fill the files. The first 8-bit step of sRGB is 1/3295. */
const LEAST_LIGHT = 1 / 4096;

function channelsOf({ role, channels, needsFloat }: ElementPicture, kernels: Kernels): ExrChannelData[] {
  return channels.map(({ name, data }) => {
    if (needsFloat) return { name, type: 'f32', data };
    const halves = new Uint16Array(data.length);
    kernels.toHalf(data, halves);
    if (roleNature(role) === 'light') kernels.toHalf(Float32Array.from(halves, (half) => Math.round(halfToFloat(half) / LEAST_LIGHT) * LEAST_LIGHT), halves);
    return { name, type: 'f16', data: halves };
  });
}

/** A document while it is being made, with the edits that the interface makes. */
class Making {
  document: TazzelDocument;

  constructor(id: string, name: string, size: { width: number; height: number }, sources: readonly Source[], facts: SceneFacts) {
    this.document = addElements(emptyDocument(id, name, size), sources, facts);
  }

  /** Returns the id of the layer that the edit made. */
  apply(edit: Edit): string {
    const known = new Set(layersInOrder(this.document).map(({ layer }) => layer.id));
    this.document = applyEdit(this.document, edit);
    return layersInOrder(this.document).find(({ layer }) => !known.has(layer.id))?.layer.id ?? '';
  }

  /** Sets a light group on the board. */
  light(group: string, params: KeptValues): void {
    this.apply({ type: 'set-params', lightId: this.source(`light_group_${group}`), params });
  }

  /** Keeps mixes: each begins with a starting point and changes some groups. The board is then as rendered. */
  scenarios(list: readonly (readonly [name: string, start: string, changes: Readonly<Record<string, KeptValues>>])[]): void {
    for (const [name, start, changes] of list) {
      this.apply({ type: 'begin-mix', start });
      for (const [group, params] of Object.entries(changes)) this.light(group, params);
      this.apply({ type: 'keep-scenario', name });
    }
    this.apply({ type: 'reset-lights', what: 'all' });
  }

  source(name: string): string {
    const found = this.document.sources.find((source) => source.name.includes(name));
    if (!found) throw new Error(`There is no element “${name}”: ${this.document.sources.map((source) => source.name).join(', ')}`);
    return found.id;
  }

  material(name: string): string {
    const found = this.document.materials.find((material) => material.kind === 'material' && material.name === name);
    if (!found) throw new Error(`There is no material “${name}”: ${this.document.materials.map((material) => material.name).join(', ')}`);
    return found.id;
  }

  element(source: string, name: string, zone: 'scene' | 'picture', blend: 'add' | 'subtract' | 'multiply' | 'soft-light', opacity: number): string {
    const layer = this.apply({ type: 'add-layer', layer: 'element', params: { source: this.source(source) }, zone, blend });
    this.apply({ type: 'set-layer', layerId: layer, patch: { name, opacity } });
    return layer;
  }

  /** Figures of the shelf, by the places of their feet as shares of the picture. */
  figures(sources: readonly Source[], list: readonly (readonly [id: string, x: number, y: number, mirrored?: boolean])[]): void {
    const { width, height } = this.document.size;
    const figures = list.map(([id, x, y, mirrored = false]) => {
      const [row, source] = [FIGURE_SHELF.find((each) => each.id === id), sources.find(({ file }) => file.name === `${id}.png`)];
      const stood = row && source ? standingAt(this.document, shelfFigure(row, source.id), [x * width, y * height], 0) : `There is no figure “${id}”.`;
      if (typeof stood === 'string') throw new Error(stood);
      return { ...stood, mirrored };
    });
    const layerId = this.apply({ type: 'add-figures', figures, sources });
    this.apply({ type: 'set-layer', layerId, patch: { name: 'People' } });
  }

  /** A sky of the shelf, so bright on the mean. */
  sky(id: string, brightness: number): void {
    const sky = SKY_SHELF.find((each) => each.id === id);
    if (!sky) throw new Error(`There is no sky “${id}”.`);
    this.apply({ type: 'add-layer', layer: 'sky', params: shelfSky(sky, this.document, [brightness, brightness, brightness]), ...sceneryPlace(this.document) });
  }

  air(params: KeptValues): void {
    this.apply({ type: 'add-layer', layer: 'air', params, zone: 'scene' });
  }

  /** A term with some of its parameters. */
  term(type: string, operation: MaskTerm['operation'], params: KeptValues): MaskTerm {
    return newTerm(type, operation, this.document, params);
  }

  /** Everything outside of a wide ellipse, darker. */
  corners(name: string, exposureStops: number): void {
    const { width, height } = this.document.size;
    const points = [[width / 2, height / 2], [width * 1.02, height / 2], [width / 2, height * 1.02]] as const;
    this.apply({ type: 'add-mask', name: 'Corners', terms: [this.term('ellipse', 'add', { softPx: width * 0.45, points })] });
    const maskId = this.document.masks.at(-1)?.id ?? '';
    this.apply({ type: 'set-mask', maskId, patch: { inverted: true } });
    const layerId = this.apply({ type: 'add-correction-layer', correction: 'exposure', zone: 'scene', maskId });
    this.apply({ type: 'set-params', layerId, params: { exposureStops } });
    this.apply({ type: 'set-layer', layerId, patch: { name } });
  }

    exposure(name: string, exposureStops: number): void {
    const layer = this.apply({ type: 'add-correction-layer', correction: 'exposure', zone: 'scene' });
    this.apply({ type: 'set-params', layerId: layer, params: { exposureStops } });
    this.apply({ type: 'set-layer', layerId: layer, patch: { name } });
  }

  correct(material: string, correction: string, params: Readonly<Record<string, number>>): void {
    const layer = this.apply({ type: 'correct-material', materialIds: [this.material(material)], correction, zone: 'scene' });
    this.apply({ type: 'set-params', layerId: layer, params });
  }

  /** The layer everywhere but on a material. */
  keepOff(layerId: string, material: string): void {
    this.apply({ type: 'mask-with-material', materialIds: [this.material(material)], layerId });
    const used = layersInOrder(this.document).find(({ layer }) => layer.id === layerId)?.layer.mask;
    if (used && findMask(this.document, used.maskId)) this.apply({ type: 'set-layer', layerId, patch: { mask: { ...used, inverted: true } } });
  }
}

async function writeDocuments(): Promise<void> {
  const engine = await startNodeEngine({ workerUrl: new URL('worker.mjs', dist), kernelsUrl });
  const open = async (id: string, name: string, files: readonly string[]): Promise<Making> => {
    const sources: Source[] = [];
    const nextId = freshIds(null, 'source');
    let size = { width: 0, height: 0 };
    let facts: SceneFacts = {};
    for (const file of files) {
      const path = join(folder, file);
      const ref = { name: file, size: statSync(path).size, handle: path };
      const hash = await engine.hash(ref);
      engine.files.set(hash, ref);
      const report = await engine.inspect(ref);
      facts = { camera: facts.camera ?? report.camera, sun: facts.sun ?? report.sun };
      if (size.width === 0) size = report.size;
      sources.push(...(await engine.examine(sourcesFromReport(report, hash, nextId))));
    }
    const making = new Making(id, name, size, sources, facts);
    const { materials } = await engine.findSchedule(sources);
    making.apply({ type: 'set-materials', sourceId: materials[0].sourceId, materials });
    nameMaterials(making);
    const { sourceIds, measures } = await engine.measureLights(making.document);
    making.apply({ type: 'learn-lights', own: sourceIds.map((sourceId, i) => ({ sourceId, color: (measures.groups[i].own ?? [1, 1, 1]).map((value) => Math.round(value * 1e4) / 1e4) as unknown as readonly [number, number, number] })) });
    return making;
  };
  /** Pictures of figures, as they lie with the shelf. */
  const figurePictures = async ({ document }: Making, ids: readonly string[]): Promise<Source[]> => {
    const nextId = freshIds(document, 'source');
    const sources: Source[] = [];
    for (const id of new Set(ids)) {
      const path = join(shelfFolder, `${id}.png`);
      const ref = { name: `${id}.png`, size: statSync(path).size, handle: path };
      const hash = await engine.hash(ref);
      engine.files.set(hash, ref);
      const [source] = sourcesFromReport(await engine.inspect(ref), hash, nextId).map(asPicture);
      sources.push({ ...source, name: FIGURE_SHELF.find((each) => each.id === id)?.label ?? id });
    }
    return sources;
  };
  try {
    const yard = await open('demo', 'Kiln Yard Library', [...filesOf('courtyard'), ...filesOf('courtyard_geometry'), ...filesOf('courtyard_fog'), ...filesOf('courtyard_shadow')]);
    finishYard(yard);
    const room = await open('demo-reading-room', 'Kiln Yard, reading room', filesOf('reading-room'));
    finishRoom(room);
    const yardFiles = [...filesOf('courtyard'), ...filesOf('courtyard_geometry')];
    const late = await open('demo-late-sun', 'Kiln Yard, clear late sun', yardFiles);
    finishLateSun(late, await figurePictures(late, LATE_PEOPLE.map(([id]) => id)));
    const misty = await open('demo-misty-morning', 'Kiln Yard, misty winter morning', yardFiles);
    finishMistyMorning(misty);
    for (const [file, { document }] of [['document.json', yard], ['reading-room.json', room], ['late-sun.json', late], ['misty-morning.json', misty]] as const) {
      writeFileSync(join(folder, file), `${JSON.stringify(document, null, 1)}\n`);
      console.log(`${document.name}: ${document.sources.length} elements, ${document.materials.length} materials, ${layersInOrder(document).length} layers`);
    }
  } finally {
    engine.pool.terminate();
  }
}

/** The schedule's names come from the scene, as the artist would type them. */
function nameMaterials(making: Making): void {
  const sky: IdRow = { name: 'Sky', number: 0, color: [0, 0, 0] };
  const names = { material: [...materialIds(kilnYard), sky], object: [...objectIds(kilnYard), sky] };
  for (const { id, chip, kind } of making.document.materials) making.apply({ type: 'rename-material', materialId: id, name: nameOfColor(names[kind], chip) ?? 'Lamps' });
}

/** From late afternoon to dusk: the sun goes, the lamps stay. */
function finishYard(making: Making): void {
  making.element('light_group_sun', 'Sun down', 'scene', 'subtract', 0.8);
  making.element('light_group_environment', 'Sky down', 'scene', 'subtract', 0.22);
  making.element('light_group_interior_lamps', 'Lamps up', 'scene', 'add', 1);
  making.element('light_group_facade_lamps', 'Facade lamps up', 'scene', 'add', 0.8);
  making.element('atmosphere', 'Evening mist', 'scene', 'add', 0.3);
  making.exposure('Evening', 0.5);
  making.correct('Gravel', 'exposure', { exposureStops: -0.25 });
  making.correct('Brick', 'hue-saturation', { hueDegrees: -3, saturationPercent: 112 });
  making.corners('Darker corners', -0.45);
  making.element('ambient_occlusion', 'Occlusion', 'picture', 'multiply', 0.4);
  const light = making.element('raw_lighting', 'Raw lighting, off the glass', 'picture', 'soft-light', 0.18);
  making.keepOff(light, 'Glass');
  making.apply({ type: 'add-chain-correction', layerId: light, correction: 'hue-saturation' });
  making.apply({ type: 'set-params', layerId: light, correctionId: 'correction-1', params: { saturationPercent: 0 } });
  making.scenarios([['Clear day', 'clear-day', {}], ['Dusk', 'dusk', {}], ['Night', 'night', {}]]);
  // Masks that wait on the shelf: combined from several terms, exact at the edges.
  making.apply({ type: 'add-mask', name: 'Gravel in front', terms: [materialTerm([making.material('Gravel')]), making.term('depth', 'intersect', { nearMetres: 0, farMetres: 12, softFarMetres: 8 })] });
  making.apply({ type: 'add-mask', name: 'Roofs', terms: [making.term('facing', 'add', { direction: [0, 1, 0.6], spreadDegrees: 25, softDegrees: 10 }), materialTerm([making.material('Zinc')], 'intersect')] });
}

/** One render, an evening earlier and clearer: another sky, its light on the board, and the blue of distance. */
function finishLateSun(making: Making, people: readonly Source[]): void {
  making.apply({ type: 'add-light-mix' });
  making.scenarios([['Late sun', 'late-sun', {}]]);
  making.light('sun', { intensityStops: 1.4, takes: 'chosen', color: [1, 0.8, 0.55] });
  making.light('interior_lamps', { intensityStops: -1.2 });
  making.light('facade_lamps', { intensityStops: -2.5 });
  making.sky('late-sun', 0.6);
  making.air({ visibilityMetres: 2500, fallOffMetres: 0, color: [0.5, 0.58, 0.72], glowPercent: 60, glowColor: [1, 0.76, 0.48], skyPercent: 25 });
  making.figures(people, LATE_PEOPLE);
  making.correct('Brick', 'hue-saturation', { saturationPercent: 108 });
  making.corners('Darker corners', -0.3);
  making.element('ambient_occlusion', 'Occlusion', 'picture', 'multiply', 0.3);
}

/** The same render in fog that thins out upwards, under a low white sky. */
function finishMistyMorning(making: Making): void {
  making.apply({ type: 'add-light-mix' });
  making.scenarios([['Misty morning', 'clear-day', { sun: { intensityStops: -4 } }]]);
  making.light('sun', { intensityStops: -4 });
  making.light('environment', { intensityStops: 1.2, takes: 'chosen', color: [0.86, 0.95, 1.12] });
  making.light('interior_lamps', { intensityStops: 0.7 });
  making.light('facade_lamps', { intensityStops: 0.3 });
  making.sky('overcast', 0.5);
  making.air({ visibilityMetres: 130, startMetres: 4, fallOffMetres: 14, color: [0.56, 0.6, 0.66], glowPercent: 40, glowColor: [0.9, 0.8, 0.66], forwardness: 0.6 });
  making.correct('Leaves', 'hue-saturation', { saturationPercent: 50 });
  making.correct('Grass', 'hue-saturation', { saturationPercent: 60 });
  making.corners('Darker corners', -0.25);
  making.element('ambient_occlusion', 'Occlusion', 'picture', 'multiply', 0.3);
}

function finishRoom(making: Making): void {
  making.apply({ type: 'add-light-mix' });
  making.scenarios([['Morning', 'clear-day', { interior_lamps: { on: true, intensityStops: -3 } }], ['Late sun', 'late-sun', {}], ['Evening', 'dusk', { environment: { intensityStops: -1.5 }, interior_lamps: { intensityStops: 0 } }]]);
  making.light('interior_lamps', { intensityStops: -0.6 });
  making.light('environment', { intensityStops: 1 });
  making.exposure('Brighter', 0.45);
  making.correct('Oak', 'hue-saturation', { saturationPercent: 72 });
  making.correct('Plaster', 'hue-saturation', { saturationPercent: 45 });
  making.element('ambient_occlusion', 'Occlusion', 'picture', 'multiply', 0.35);
}

if (!asked.documents) await renderSets(asked.set === undefined ? SETS : SETS.filter(({ name }) => name === asked.set));
await writeDocuments();
