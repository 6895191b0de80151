import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { floatToHalf, halfToFloat, type Plane, REC709, rgbToXyz, type Source } from '@tazzel/core';
import { decodeExrChunks, allocateExrPlanes, byteSource, readExrFile } from '@tazzel/formats';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { builtEngine, builtKernels } from '../../../tests/built.ts';
import { expectClose } from '../../../tests/close.ts';
import { scratch, tool } from '../../../tests/tools.ts';
import { namedSources } from '../../../tests/sources.ts';
import type { Engine } from './engine.ts';
import { joinLuminance } from './light.ts';
import { resamplePlane } from './resample.ts';

const memory = (bytes: number) => new ArrayBuffer(bytes);
const halves = (plane: Plane) => Array.from(plane.data, halfToFloat);
const folder = scratch();
let engine: Engine;
beforeAll(async () => {
  engine = await builtEngine();
});
afterAll(() => engine.pool.terminate());

/** An uncompressed OpenEXR with luminance for every pixel and differences for every second one, by the published file layout. */
function luminanceFile(width: number, height: number, rgb: (x: number, y: number) => readonly [number, number, number]): Uint8Array {
  const [wr, wg, wb] = rgbToXyz(REC709)[1];
  const bytes: number[] = [];
  const u8 = (...values: number[]) => bytes.push(...values);
  const i32 = (value: number) => u8(value & 255, (value >> 8) & 255, (value >> 16) & 255, (value >> 24) & 255);
  const text = (value: string) => u8(...Buffer.from(`${value}\0`));
  const attribute = (name: string, type: string, size: number, body: () => void) => {
    text(name);
    text(type);
    i32(size);
    body();
  };
  i32(20000630);
  i32(2);
  const channels = [['BY', 2], ['RY', 2], ['Y', 1]] as const;
  attribute('channels', 'chlist', channels.reduce((sum, [name]) => sum + name.length + 1 + 16, 1), () => {
    for (const [name, step] of channels) {
      text(name);
      i32(1);
      u8(0, 0, 0, 0);
      i32(step);
      i32(step);
    }
    u8(0);
  });
  attribute('compression', 'compression', 1, () => u8(0));
  for (const name of ['dataWindow', 'displayWindow']) attribute(name, 'box2i', 16, () => [0, 0, width - 1, height - 1].forEach(i32));
  attribute('lineOrder', 'lineOrder', 1, () => u8(0));
  u8(0);
  const lines = Array.from({ length: height }, (_, y) => {
    const half: number[] = [];
    const add = (step: number, value: (r: number, g: number, b: number) => number) => {
      if (y % step === 0) for (let x = 0; x < width; x += step) half.push(floatToHalf(value(...rgb(x, y))));
    };
    const luminance = (r: number, g: number, b: number) => wr * r + wg * g + wb * b;
    add(2, (r, g, b) => (b - luminance(r, g, b)) / luminance(r, g, b));
    add(2, (r, g, b) => (r - luminance(r, g, b)) / luminance(r, g, b));
    add(1, luminance);
    return half;
  });
  let offset = bytes.length + height * 8;
  for (const half of lines) {
    i32(offset);
    i32(0);
    offset += 8 + half.length * 2;
  }
  for (const [y, half] of lines.entries()) {
    i32(y);
    i32(half.length * 2);
    for (const value of half) u8(value & 255, value >> 8);
  }
  return Uint8Array.from(bytes);
}

describe('luminance and colour differences', () => {
  it('become red, green and blue: what changes evenly is exact', async () => {
    const rgb = (x: number, y: number): [number, number, number] => [0.2 + x / 50, 0.5, 0.1 + y / 60];
    const bytes = luminanceFile(11, 7, rgb);
    const header = (await readExrFile(byteSource('yc.exr', bytes))).parts[0];
    const planes = allocateExrPlanes(header, ['RY', 'Y', 'BY']);
    await decodeExrChunks(byteSource('yc.exr', bytes), header, planes, 0, header.offsets.length, await builtKernels());
    expect(['RY', 'Y', 'BY'].map((name) => [planes.get(name)?.width, planes.get(name)?.height])).toEqual([[6, 4], [11, 7], [6, 4]]);
    const path = join(folder, 'beauty_yc.exr');
    writeFileSync(path, bytes);
    const [source] = await namedSources(engine, [path]);
    expect(source.colorChannels).toEqual(['RY', 'Y', 'BY']);
    const document = { width: 11, height: 7 };
    const color = joinLuminance(['RY', 'Y', 'BY'].map((name) => planes.get(name) as Plane), { x: 0, y: 0 }, [[2, 2], [1, 1], [2, 2]], [...rgbToXyz(REC709)[1]], memory);
    for (let y = 0; y < document.height; y++) for (let x = 0; x < document.width; x++) expectClose(color.map((plane) => halves(plane)[y * 11 + x]), rgb(Math.min(x, 10), Math.min(y, 6)), 0.006, `${x} ${y}`);
  });
});

describe('other primaries', () => {
  it('light is converted, data is not', async () => {
    const path = join(folder, 'ap1_beauty.exr');
    tool('oiiotool', '--pattern', 'constant:color=0.18,0.18,0.5', '16x8', '3', '--chnames', 'R,G,B', '-d', 'float', '--attrib:type=float[8]', 'chromaticities', '0.713,0.293,0.165,0.83,0.128,0.044,0.32168,0.33767', '-o', path);
    const [source] = await namedSources(engine, [path]);
    const { addElements, emptyDocument } = await import('@tazzel/core');
    const value = async (patch: Partial<Source>) => {
      const changed = { ...source, ...patch };
      return (await engine.probe(addElements(emptyDocument('d', 'd', { width: 16, height: 8 }), [changed]), 3, 3, 0)).light.slice(0, 3);
    };
    // REFERENCES 2.2: AP1 → linear sRGB with Bradford, rows of the published matrix.
    const m = [[1.705051, -0.6217921, -0.0832589], [-0.1302564, 1.1408047, -0.0105483], [-0.0240034, -0.128969, 1.1529723]];
    expectClose(await value({}), m.map(([r, g, b]) => 0.18 * r + 0.18 * g + 0.5 * b), 1e-5);
    expectClose(await value({ role: 'normals', encoding: 'data' }), [0.18, 0.18, 0.5], 1e-6);
  });
});

describe('fitting to another size', () => {
  const ramp: Plane = { type: 'f32', width: 8, height: 4, data: Float32Array.from({ length: 32 }, (_, i) => (i % 8) + 10 * Math.floor(i / 8)) };
  it('the same size is the same picture', () => expect([...resamplePlane(ramp, { width: 8, height: 4 }, false, memory).data]).toEqual([...ramp.data]));
  it('an even slope stays one, larger and smaller, apart from its edges', () => {
    for (const size of [{ width: 20, height: 4 }, { width: 4, height: 4 }]) {
      const { data } = resamplePlane(ramp, size, false, memory);
      for (let x = 3; x < size.width - 3; x++) expect(data[x]).toBeCloseTo(((x + 0.5) * 8) / size.width - 0.5, 4);
    }
  });
  it('means stay', () => {
    const half = resamplePlane(ramp, { width: 4, height: 2 }, false, memory);
    const mean = ({ data }: Plane) => Array.from(data).reduce((a, b) => a + b, 0) / data.length;
    expect(mean(half)).toBeCloseTo(mean(ramp), 1);
  });
  it('IDs are never mixed', () => {
    const ids: Plane = { type: 'u8', width: 3, height: 2, data: Uint8Array.of(10, 20, 30, 40, 50, 60) };
    const { data } = resamplePlane(ids, { width: 7, height: 5 }, true, memory);
    expect([...new Set(data)].every((value) => ids.data.includes(value as never))).toBe(true);
    expect([data[0], data[34]]).toEqual([10, 60]);
  });
});
