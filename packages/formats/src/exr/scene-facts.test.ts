import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Camera, camera, cameraOf, defaultsOf, type DocumentCamera, type DocumentSun, matricesOf, sunDirection, sunOf, sunPlace, type Triple } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { builtKernels } from '../../../../tests/built.ts';
import { expectClose } from '../../../../tests/close.ts';
import { joined, platform } from '../../../../tests/formats.ts';
import { scratch, tool } from '../../../../tests/tools.ts';
import { byteSource } from '../bytes.ts';
import { inspectFile } from '../inspect.ts';
import { encodeExr } from './encode.ts';
import { type Attributes, attributesOf, sceneFactsOf } from './scene-facts.ts';

const folder = scratch();
const size = { width: 120, height: 80 };
const own: Camera = { ...(defaultsOf(camera) as unknown as Camera), focalMillimetres: 31, sensorMillimetres: 24, shiftY: 4, headingDegrees: -20, eastMetres: 3, southMetres: 12, tiltDegrees: 2, fNumber: 2.8, iso: 400, shutterSeconds: 0.02, focusMetres: 7.5 };
const facts = { ...matricesOf(own, size), focalMillimetres: 31, fNumber: 2.8, iso: 400, shutterSeconds: 0.02, focusMetres: 7.5 };
const towardsSun: Triple = [0.6, 0.48, -0.64];

/** A small picture with these attributes, with only a part of the picture rendered. */
async function written(path: string): Promise<Uint8Array> {
  const channels = ['R', 'G', 'B'].map((name) => ({ name, type: 'f16' as const, data: new Uint16Array(20 * 10) }));
  const bytes = joined(await encodeExr({ dataWindow: { x: 30, y: 20, width: 20, height: 10 }, displayWindow: { x: 0, y: 0, ...size }, compression: 'ZIP', channels, numbers: attributesOf(facts, towardsSun) }, platform, await builtKernels()));
  writeFileSync(path, bytes);
  return bytes;
}

describe('camera and sun in OpenEXR files', () => {
  it('come back from our own, to single precision', async () => {
    const report = await inspectFile(byteSource('own.exr', await written(join(folder, 'own.exr'))));
    expect(report.camera?.from).toBe('file');
    const { up, ...numbers } = cameraOf(report.camera as DocumentCamera);
    expect(up).toBe('y');
    for (const [name, value] of Object.entries(numbers)) expectClose([value as number], [own[name as keyof Camera] as number], 2e-5, name);
    expectClose(sunDirection(sunPlace(sunOf(report.sun as DocumentSun))).direction, towardsSun, 1e-5);
  });
  it('ours are standard attributes, as OpenImageIO reads them', async () => {
    const path = join(folder, 'ours.exr');
    await written(path);
    const said = tool('oiiotool', '--info', '-v', path).toString();
    const numbers = (name: string) => said.match(new RegExp(`${name}: ([^\\n]+)`))?.[1].split(/[\s,]+/).map(Number) ?? [];
    expectClose(numbers('worldToCamera'), facts.worldToCamera, 1e-4);
    expectClose(numbers('worldToNDC'), facts.worldToNDC, 1e-4);
    // Aperture and exposure are known to it by the names that photographs give them.
    expect([numbers('focus'), numbers('FNumber'), numbers('ExposureTime'), numbers('isoSpeed')]).toEqual([[7.5], [2.8], [0.02], [400]]);
  });
  it('of other writers: −1…1, a place and a time', async () => {
    const path = join(folder, 'theirs.exr');
    // A camera of 90° at (0, 2, 0) that looks along −z, as a perspective with y up; rows of x·M.
    const ndc = '1,0,0,0,0,1.5,0,0,0,0,-1,-1,0,-3,0,0';
    tool('oiiotool', '--create', '120x80', '3', '-d', 'half', '--attrib:type=matrix', 'worldToNDC', ndc, '--attrib:type=float', 'latitude', '51.5074', '--attrib:type=float', 'longitude', '-0.1278', '--attrib:type=string', 'DateTime', '2024:06:21 13:00:00', '--attrib:type=float', 'utcOffset', '-3600', '-o', path);
    const report = await inspectFile(byteSource('theirs.exr', new Uint8Array(readFileSync(path))));
    const found = cameraOf(report.camera as DocumentCamera);
    expectClose([found.focalMillimetres, found.heightMetres, found.tiltDegrees, found.headingDegrees], [18, 2, 0, 0], 1e-5);
    // NOAA's value for London, 2024-06-21 12:00 UTC.
    expect(report.sun).toMatchObject({ from: 'file', params: { place: 'date', utc: '2024-06-21T12:00Z' } });
    expect(sunDirection(sunPlace(sunOf(report.sun as DocumentSun))).altitudeDegrees).toBeCloseTo(61.926, 2);
  });
  it('files that say nothing, or nonsense, have none', () => {
    const nonsense: Attributes[] = [{}, { worldToNDC: [1, 2, 3] }, { worldToNDC: 'text' }, { sunDirection: [0, 0, 0] }, { sunDirection: [Number.NaN, 1, 0] }, { latitude: [200], longitude: [0], capDate: '2024:06:21 13:00:00' }, { latitude: [10], longitude: [0], capDate: 'yesterday' }, { focus: [-4], aperture: [Number.POSITIVE_INFINITY] }];
    for (const attributes of nonsense) expect(sceneFactsOf(attributes, size), JSON.stringify(attributes)).toEqual({ camera: null, sun: null });
  });
});
