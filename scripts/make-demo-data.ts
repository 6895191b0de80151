/**
 * Makes the demo: `npm run demo-data` writes the elements of the Kiln Yard and the document that opens with them into
 * apps/web/public/demo. The seed is fixed; anyone gets the same files.
 */
import { mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { addElements, applyEdit, type Edit, emptyDocument, freshIds, idSource, layersInOrder, type Source, type TazzelDocument } from '@tazzel/core';
import { nodePlatform, startNodeEngine } from '@tazzel/engine/node';
import { encodeExr, encodePng, sourcesFromReport } from '@tazzel/formats';
import { Kernels } from '@tazzel/kernels';
import { renderElements } from './demo/render.ts';

const WIDTH = 1200;
const HEIGHT = 800;
const folder = fileURLToPath(new URL('../apps/web/public/demo/', import.meta.url));
const dist = new URL('../apps/cli/dist/', import.meta.url);

async function writeFiles(): Promise<void> {
  const { planes, ids } = renderElements(WIDTH, HEIGHT, (share) => process.stdout.write(`\rrendering ${Math.round(share * 100)} % `));
  process.stdout.write('\n');
  const kernels = await Kernels.create(await WebAssembly.compile(readFileSync(new URL('kernels.wasm', dist))));
  const channels = [...planes].map(([name, values]) => {
    if (name === 'depth.Z') return { name, type: 'f32' as const, data: values };
    const data = new Uint16Array(values.length);
    kernels.toHalf(values, data);
    return { name, type: 'f16' as const, data };
  });
  const window = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  const exr = await encodeExr({ dataWindow: window, displayWindow: window, compression: 'ZIP', channels, notes: { comments: 'Kiln Yard Library, an invented place' } }, nodePlatform, kernels);
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'kiln-yard.exr'), Buffer.concat(exr));
  writeFileSync(join(folder, 'kiln-yard_material_id.png'), Buffer.concat(await encodePng({ width: WIDTH, height: HEIGHT, rgba: ids }, nodePlatform)));
}

/** The build-up of the demo, made with the edits that the interface makes. */
async function writeDocument(): Promise<void> {
  const engine = await startNodeEngine({ workerUrl: new URL('worker.mjs', dist), kernelsUrl: new URL('kernels.wasm', dist) });
  try {
    const sources: Source[] = [];
    const nextId = freshIds(null, 'source');
    for (const name of ['kiln-yard.exr', 'kiln-yard_material_id.png']) {
      const path = join(folder, name);
      const file = { name, size: statSync(path).size, handle: path };
      const hash = await engine.hash(file);
      engine.files.set(hash, file);
      sources.push(...(await engine.verify(sourcesFromReport(await engine.inspect(file), hash, nextId))));
    }
    let document: TazzelDocument = addElements(emptyDocument('demo', 'Kiln Yard Library', { width: WIDTH, height: HEIGHT }), sources);
    const apply = (edit: Edit): string => {
      const known = new Set(layersInOrder(document).map(({ layer }) => layer.id));
      document = applyEdit(document, edit);
      return layersInOrder(document).find(({ layer }) => !known.has(layer.id))?.layer.id ?? '';
    };
    const ids = idSource(sources) as Source;
    apply({ type: 'set-materials', sourceId: ids.id, materials: await engine.findMaterials(ids) });
    nameMaterials(document, apply);
    finish(document, apply);
    writeFileSync(join(folder, 'document.json'), `${JSON.stringify(document, null, 1)}\n`);
    console.log(`${document.sources.length} elements, ${document.materials.length} materials, ${layersInOrder(document).length} layers`);
  } finally {
    engine.pool.terminate();
  }
}

type Apply = (edit: Edit) => string;

/** The schedule's names come from the scene, as the artist would type them. */
function nameMaterials(document: TazzelDocument, apply: Apply): void {
  const names: readonly [string, readonly number[]][] = Object.entries(surfaceNames);
  for (const material of document.materials) {
    const near = (color: readonly number[]) => color.reduce((sum, v, c) => sum + Math.abs(v - material.chip[c]), 0);
    const [name, color] = [...names].sort(([, a], [, b]) => near(a) - near(b))[0];
    if (near(color) < 0.02) apply({ type: 'rename-material', materialId: material.id, name });
    else if (material.chip.every((v) => v < 0.02)) apply({ type: 'rename-material', materialId: material.id, name: 'Sky' });
  }
}

function finish(start: TazzelDocument, apply: Apply): void {
  const source = (role: string) => start.sources.find((candidate) => candidate.role === role)?.id ?? '';
  const material = (name: string) => start.materials.find((row) => near(row.chip, surfaceNames[name]))?.id ?? '';
  const near = (chip: readonly number[], color: readonly number[] | undefined) => color !== undefined && chip.every((v, c) => Math.abs(v - color[c]) < 0.01);

  const glow = apply({ type: 'add-element-layer', sourceId: source('self-illumination'), zone: 'scene', blend: 'add' });
  apply({ type: 'set-layer', layerId: glow, patch: { name: 'Lamps up', opacity: 0.55 } });
  const exposure = apply({ type: 'add-correction-layer', correction: 'exposure', zone: 'scene' });
  apply({ type: 'set-params', layerId: exposure, params: { exposureStops: -0.35 } });
  apply({ type: 'set-layer', layerId: exposure, patch: { name: 'Evening' } });
  const gravel = apply({ type: 'correct-material', materialId: material('Gravel'), correction: 'exposure', zone: 'scene' });
  apply({ type: 'set-params', layerId: gravel, params: { exposureStops: -0.3 } });
  const brick = apply({ type: 'correct-material', materialId: material('Brick'), correction: 'hue-saturation', zone: 'scene' });
  apply({ type: 'set-params', layerId: brick, params: { hueDegrees: -6, saturationPercent: 118 } });
  const occlusion = apply({ type: 'add-element-layer', sourceId: source('ambient-occlusion'), zone: 'picture', blend: 'multiply' });
  apply({ type: 'set-layer', layerId: occlusion, patch: { name: 'Occlusion', opacity: 0.45 } });
  const light = apply({ type: 'add-element-layer', sourceId: source('raw-lighting'), zone: 'picture', blend: 'soft-light' });
  apply({ type: 'set-layer', layerId: light, patch: { opacity: 0.3 } });
  apply({ type: 'set-layer', layerId: light, patch: { name: 'Raw lighting, off the glass' } });
  apply({ type: 'mask-with-material', materialId: material('Glass'), layerId: light });
  apply({ type: 'add-chain-correction', layerId: light, correction: 'hue-saturation' });
  apply({ type: 'set-params', layerId: light, correctionId: 'correction-1', params: { saturationPercent: 0 } });
  apply({ type: 'set-layer', layerId: light, patch: { mask: { maskId: 'mask-3', inverted: true, enabled: true } } });
}

const surfaceNames: Record<string, readonly number[]> = {};
{
  const { surfaces } = await import('./demo/scene.ts');
  for (const [name, { id }] of Object.entries(surfaces)) surfaceNames[name[0].toUpperCase() + name.slice(1)] = id.map((v) => Math.round(v * 255) / 255);
}

if (!process.argv.includes('--document')) await writeFiles();
await writeDocument();
