/** The bench's twenty layers: smooth pictures with grain, an ID picture, written as real files. */
import { mkdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { applyEdit, type BlendModeId, emptyDocument, freshId, type Source, type TazzelDocument } from '@tazzel/core';
import { type Engine, PRIORITY } from '@tazzel/engine';
import { nodePlatform } from '@tazzel/engine/node';
import { encodePng, sourcesFromReport } from '@tazzel/formats';

export const MODES: readonly BlendModeId[] = ['multiply', 'screen', 'overlay', 'soft-light', 'normal'];
export const LAYERS = 20;

/** RGBA bytes; layer 0 is opaque. */
export function layerPixels(width: number, height: number, layer: number): Uint8Array {
  const rgba = new Uint8Array(width * height * 4);
  let noise = 12345 + layer * 977;
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i += 4) {
      noise = (Math.imul(noise, 1664525) + 1013904223) | 0;
      const grain = (noise >>> 28) - 8;
      rgba[i] = 128 + 90 * Math.sin((x + layer * 300) / 500) + grain;
      rgba[i + 1] = 128 + 90 * Math.sin((y + layer * 200) / 400) + grain;
      rgba[i + 2] = 128 + 90 * Math.sin((x + y + layer * 100) / 600) + grain;
      rgba[i + 3] = layer === 0 ? 255 : 96 + ((x * 3 + y + layer * 40) >> 5) % 128;
    }
  }
  return rgba;
}

/** A level ground under a camera at eye height, a front 20 m away, sky above it, and posts 4 m away; where two things meet a pixel has the mean of both. */
export function yardDepth(width: number, height: number): Float32Array {
  const focalPx = (50 / 36) * width;
  const at = (x: number, y: number) => {
    if (x % (width / 6) < width / 90) return 4;
    const ground = y > height / 2 ? (1.6 * focalPx) / (y - height / 2) : Number.POSITIVE_INFINITY;
    return Math.min(ground, y > height / 4 ? 20 : 1e5);
  };
  return Float32Array.from({ length: width * height }, (_, i) => (at(i % width, Math.floor(i / width)) + at((i % width) + 1, Math.floor(i / width))) / 2);
}

/** Eight broad areas with soft borders left out: a plain ID picture. */
export function idPixels(width: number, height: number): Uint8Array {
  const rgba = new Uint8Array(width * height * 4).fill(255);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i += 4) {
      const area = Math.floor((x * 4) / width) + 4 * Math.floor((y * 2) / height);
      rgba[i] = (area & 1) * 200;
      rgba[i + 1] = ((area >> 1) & 1) * 200;
      rgba[i + 2] = ((area >> 2) & 1) * 200 + 20;
    }
  }
  return rgba;
}

/** Writes the files into `folder` and makes the document: every second layer is masked with a material. */
export async function benchDocument(engine: Engine, folder: string, width: number, height: number): Promise<TazzelDocument> {
  mkdirSync(folder, { recursive: true });
  let document = emptyDocument('bench', 'Bench', { width, height });
  const add = async (name: string, rgba: Uint8Array): Promise<Source> => {
    const path = join(folder, `${name}.png`);
    // Level 1 is enough here: the files are only read back.
    writeFileSync(path, Buffer.concat(await encodePng({ width, height, rgba }, { ...nodePlatform, deflate: (raw) => deflateSync(raw, { level: 1 }) })));
    const file = { name: `${name}.png`, size: statSync(path).size, handle: path };
    const hash = await engine.hash(file);
    engine.files.set(hash, file);
    const report = await engine.pool.run('inspect', { file }, { priority: PRIORITY.load });
    const [source] = sourcesFromReport(report, hash, () => freshId(document, 'source'));
    document = applyEdit(document, { type: 'add-sources', sources: [source] });
    return source;
  };
  const ids = await add('material_id', idPixels(width, height));
  document = applyEdit(document, { type: 'set-materials', sourceId: ids.id, materials: await engine.findMaterials(ids) });
  for (let layer = 0; layer < LAYERS; layer++) {
    const source = await add(`layer_${layer}`, layerPixels(width, height, layer));
    const blend = layer === 0 ? 'normal' : MODES[(layer - 1) % MODES.length];
    document = applyEdit(document, { type: 'add-layer', layer: 'element', params: { source: source.id }, zone: 'picture', blend });
    const added = document.buildUp.picture[layer];
    if (layer > 0 && layer % 2 === 0) document = applyEdit(document, { type: 'mask-with-material', materialIds: [document.materials[layer % 8].id], layerId: added.id });
  }
  return document;
}
