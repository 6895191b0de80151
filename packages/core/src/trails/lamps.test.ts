import { describe, expect, it } from 'vitest';
import { camera, cameraOf } from '../camera/camera.ts';
import { projected, viewOfCamera } from '../camera/view.ts';
import { defaultsOf } from '../params/table.ts';
import { lampLines, type Trails, VERTEX } from './lamps.ts';

const view = viewOfCamera(cameraOf({ from: 'hand', params: { ...defaultsOf(camera), heightMetres: 2, focalMillimetres: 36, sensorMillimetres: 36 } }), { width: 1000, height: 800 });
/** Along the street that the camera looks down (to the north), one lamp in its lane's middle as near as chance lets it. */
const one: Trails = { view, courses: [[[0, -5], [0, -205]]], groundMetres: 0, lanes: 1, laneMetres: 3, traffic: 'one-way', vehicles: 1, lengthMetres: 1e6, lampHeightMetres: 0.7, lampMetres: 0.12, trackMetres: 0, towards: [1, 1, 1], away: [1, 0, 0], flicker: 0, flashMetres: 1, seed: 1 };
const vertices = (line: Float64Array) => Array.from({ length: line.length / VERTEX }, (_, i) => [...line.subarray(i * VERTEX, (i + 1) * VERTEX)]);

describe('lines that lamps draw', () => {
  it('lie where the camera sees the lamps, as large as they are there', () => {
    const [line] = lampLines(one, 1, false);
    const [nearest] = vertices(line);
    const height = 2 - ((nearest[1] - view.axisY) / view.focalPx) * nearest[2];
    expect(nearest[2]).toBeCloseTo(5, 9);
    // Heights differ by 18 % at most, places in the lane by 0.35 m.
    expect(Math.abs(height / 0.7 - 1)).toBeLessThan(0.181);
    expect(Math.abs(((nearest[0] - view.axisX) / view.focalPx) * 5)).toBeLessThan(0.351);
    // A lamp 0.12 m across, 5 m away, 1000 pixels to a metre at one metre: 12 pixels in radius.
    expect(nearest[3]).toBeCloseTo(12, 6);
    expect(lampLines(one, 4, false)[0][3]).toBeCloseTo(3, 6);
  });
  it('mirrored lamps lie as far under the ground as they are over it', () => {
    const [[over], [under]] = [lampLines(one, 1, false), lampLines(one, 1, true)];
    const heightOf = (line: Float64Array) => 2 - ((line[1] - view.axisY) / view.focalPx) * line[2];
    expect(heightOf(under)).toBeCloseTo(-heightOf(over), 9);
    expect(projected(view, [0, 0, -5])?.depthMetres).toBeCloseTo(5, 9);
  });
  it('go away in red and come nearer in white, by the way that they are driven', () => {
    const lights = (trails: Trails) => lampLines(trails, 1, false).flatMap(vertices).map(([, , , , towards, away]) => [towards > 0, away > 0]);
    expect(new Set(lights(one).map(String))).toEqual(new Set(['false,true']));
    expect(new Set(lights({ ...one, courses: [one.courses[0].toReversed()] }).map(String))).toEqual(new Set(['true,false']));
    // Both ways: on the right, who goes away keeps to the right of the picture.
    const sides = lampLines({ ...one, lanes: 2, traffic: 'right', vehicles: 12 }, 1, false).flatMap(vertices).map(([x, , , , towards]) => `${x > view.axisX} ${towards > 0}`);
    expect(new Set(sides)).toEqual(new Set(['true false', 'false true']));
    expect(new Set(lampLines({ ...one, lanes: 2, traffic: 'left', vehicles: 12 }, 1, false).flatMap(vertices).map(([x, , , , towards]) => `${x > view.axisX} ${towards > 0}`))).toEqual(new Set(['true true', 'false false']));
  });
  it('are as long as a vehicle gets while the shutter is open', () => {
    const lengths = lampLines({ ...one, lengthMetres: 30, vehicles: 20 }, 1, false).map((line) => line[line.length - VERTEX + 2] - line[2]);
    expect(Math.max(...lengths)).toBeCloseTo(30, 6);
    for (const length of lengths) expect(length).toBeLessThanOrEqual(30 + 1e-6);
  });
  it('two lamps of a vehicle are as far apart as its track; another seed is other traffic', () => {
    const [left, right] = lampLines({ ...one, trackMetres: 1.4 }, 1, false);
    expect(((right[0] - left[0]) / view.focalPx) * left[2]).toBeCloseTo(1.4, 9);
    expect(lampLines({ ...one, seed: 2 }, 1, false)[0][0]).not.toBe(lampLines(one, 1, false)[0][0]);
  });
  it('flashes that are seen apart go dark in between; those that are not are seen as their mean', () => {
    const of = (flashMetres: number) => vertices(lampLines({ ...one, flicker: 1, flashMetres }, 1, false)[0]).slice(0, 200).map(([, , , , , away]) => away);
    const plain = lampLines(one, 1, false)[0][5];
    expect(Math.min(...of(1))).toBeLessThan(0.02 * plain);
    expect(Math.max(...of(1))).toBeGreaterThan(0.95 * plain);
    for (const light of of(1e-4)) expect(light).toBeCloseTo(plain / 2, 9);
  });
  it('what passes behind the camera comes in pieces, and nothing is drawn there', () => {
    const through = lampLines({ ...one, courses: [[[1, -20], [1, 20], [3, 20], [3, -20]]] }, 1, false);
    expect(through).toHaveLength(2);
    for (const [, , depth] of through.flatMap(vertices)) expect(depth).toBeGreaterThan(0.2);
  });
});
