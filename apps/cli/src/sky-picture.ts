import { readFile } from 'node:fs/promises';
import { halfToFloat } from '@tazzel/core';
import { openNodeFile } from '@tazzel/engine/node';
import { allocateExrPlanes, decodeExrChunks, readExrFile } from '@tazzel/formats';
import { Kernels } from '@tazzel/kernels';
import { fileRef } from './files.ts';

/** An equirectangular OpenEXR picture as a scene holds it. @throws Error with a sentence if it has no R, G and B */
export async function readSkyPicture(path: string): Promise<{ width: number; height: number; pixels: number[] }> {
  const source = openNodeFile(await fileRef(path));
  const { parts } = await readExrFile(source);
  const header = parts.find(({ channels }) => ['R', 'G', 'B'].every((name) => channels.some((channel) => channel.name === name)));
  if (!header) throw new Error(`${path} has no channels R, G and B. Save the sky as an RGB picture.`);
  const kernels = await Kernels.create(await WebAssembly.compile(await readFile(new URL('./kernels.wasm', import.meta.url))));
  const planes = allocateExrPlanes(header, ['R', 'G', 'B']);
  await decodeExrChunks(source, header, planes, 0, header.offsets.length, kernels);
  const { width, height } = header.dataWindow;
  const pixels = new Array<number>(width * height * 3);
  for (const [c, name] of ['R', 'G', 'B'].entries()) {
    const plane = planes.get(name);
    if (plane) for (let i = 0; i < width * height; i++) pixels[i * 3 + c] = plane.type === 'f16' ? halfToFloat(plane.data[i]) : plane.data[i];
  }
  return { width, height, pixels };
}
