/** What brings a sky to a picture: brightness, white, the sun; the skies of the shelf. */
import { describe, expect, it } from 'vitest';
import { luminanceOf } from '../color/luminance.ts';
import { sceneryPlace } from '../document/scenery-place.ts';
import { shelfDocument, shelfSky } from '../document/skies.ts';
import { applyEdit } from '../document/edits.ts';
import { after } from '../../../../tests/documents.ts';
import { layerSpec } from './registry.ts';
import { emptyDocument } from '../model/model.ts';
import { completeParams, type KeptValues } from '../params/table.ts';
import { airMass, clearLook, skyLux, sunTransmittance } from '../sky/look.ts';
import { SKY_SHELF } from '../sky/shelf.ts';
import { directionOf } from '../sun/position.ts';
import { meanSkyLight, readShelfSky, shelfSkyOf, skyOfDocument, type SkyValues, skyMatch, skyValuesOf, sunsApart } from './sky-values.ts';

const SIZE = { width: 300, height: 200 };
const empty = emptyDocument('doc', 'Sky', SIZE);
const values = (params: KeptValues): SkyValues => completeParams(layerSpec('sky'), params) as unknown as SkyValues;

describe('matching', () => {
  const own = values({ sunFrom: 'own', altitudeDegrees: 30 });
  const wanted = [0.5, 0.4, 0.2] as const;
  it('by brightness: the same luminance, the colour stays', () => {
    const matched = values({ ...own, ...skyMatch(own, empty, wanted, 'brightness') });
    const [before, now] = [meanSkyLight(own, empty), meanSkyLight(matched, empty)] as const;
    if (!before || !now) throw new Error('no sky');
    expect(luminanceOf(now)).toBeCloseTo(luminanceOf(wanted), 6);
    expect(now[0] / now[2]).toBeCloseTo(before[0] / before[2], 6);
  });
  it('by white: the same colour, luminance stays', () => {
    const matched = values({ ...own, ...skyMatch(own, empty, wanted, 'white') });
    const [before, now] = [meanSkyLight(own, empty), meanSkyLight(matched, empty)] as const;
    if (!before || !now) throw new Error('no sky');
    expect(luminanceOf(now)).toBeCloseTo(luminanceOf(before), 2);
    expect(now[0] / now[2]).toBeCloseTo(wanted[0] / wanted[2], 2);
  });
  it('says nothing where there is no sky, or no light', () => {
    const down = after(empty, { type: 'set-camera', from: 'hand', params: { tiltDegrees: -80 } });
    expect(meanSkyLight(own, down)).toBeNull();
    expect(skyMatch(own, down, wanted, 'brightness')).toBeNull();
    expect(skyMatch(own, empty, [0, 0, 0], 'brightness')).toBeNull();
  });
  it('tells how far its sun stands from that of the picture', () => {
    const lit = after(empty, { type: 'set-sun', from: 'hand', params: { azimuthDegrees: 90, altitudeDegrees: 30 } });
    expect(sunsApart(values({ sunFrom: 'own', azimuthDegrees: 90, altitudeDegrees: 50 }), lit)).toBeCloseTo(20, 6);
    expect(sunsApart(values({ sunFrom: 'document' }), lit)).toBeCloseTo(0, 4);
    expect(sunsApart(own, empty)).toBeNull();
  });
});

describe('light of day and night', () => {
  it('way through the air', () => {
    // Kasten and Young 1989.
    for (const [altitude, mass] of [[90, 0.9997], [30, 1.9943], [10, 5.586], [5, 10.3058], [0, 37.92]] as const) expect(airMass(altitude)).toBeCloseTo(mass, 2);
  });
  it('the sun turns red as it sinks, and haze dims it', () => {
    const [high, low] = [sunTransmittance(60, 2.5), sunTransmittance(3, 2.5)];
    expect(low[0] / low[2]).toBeGreaterThan(4 * (high[0] / high[2]));
    expect(sunTransmittance(60, 6)[1]).toBeLessThan(high[1]);
  });
  it('twilight is as dark as it was measured, without a jump', () => {
    // Explanatory Supplement to the Astronomical Almanac: 3.4 lux at the end of civil twilight; value from memory.
    expect(skyLux(-6)).toBeCloseTo(3.4, 1);
    for (let altitude = 20; altitude > -18; altitude -= 0.25) {
      const [now, next] = [skyLux(altitude), skyLux(altitude - 0.25)];
      expect(next).toBeLessThanOrEqual(now);
      // RP-21 falls steeply in the last quarter of a degree.
      expect(now / next).toBeLessThan(2.5);
    }
  });
  it('every clear sky has the lux of its hour', () => {
    for (const altitudeDegrees of [70, 30, 5, 0, -4, -10]) {
      const { mean } = clearLook(2.5, directionOf({ altitudeDegrees, azimuthDegrees: 77 }));
      expect(mean * Math.PI * 10_000).toBeCloseTo(skyLux(altitudeDegrees), 6);
    }
  });
});

describe('the shelf', () => {
  it('has ten skies and more, each a document that stands', () => {
    expect(SKY_SHELF.length).toBeGreaterThanOrEqual(10);
    expect(new Set(SKY_SHELF.map(({ id }) => id)).size).toBe(SKY_SHELF.length);
    for (const sky of SKY_SHELF) expect(skyOfDocument(shelfDocument(sky))?.params).toMatchObject({ altitudeDegrees: sky.altitudeDegrees, ...sky.params });
  });
  it('a sky comes as bright as the old one, its sun over that of the picture', () => {
    const lit = after(empty, { type: 'set-sun', from: 'hand', params: { azimuthDegrees: -110, altitudeDegrees: 12 } });
    for (const sky of SKY_SHELF) {
      const params = shelfSky(sky, lit, [0.3, 0.3, 0.3]);
      const placed = applyEdit(lit, { type: 'add-layer', layer: 'sky', params, ...sceneryPlace(lit) });
      expect(skyOfDocument(placed)?.params.azimuthDegrees, sky.id).toBeCloseTo(-110, 6);
      expect(luminanceOf(meanSkyLight(values(params), lit) ?? [0, 0, 0]), sky.id).toBeCloseTo(0.3, 6);
    }
  });
  it('takes one’s own, which look alike under the sun of another document', () => {
    const made = values({ sunFrom: 'own', altitudeDegrees: 23, azimuthDegrees: 60, turbidity: 4, clouds: 'cirrus', coverPercent: 70, seed: 5, exposureStops: -1, tint: [1, 0.9, 0.8] });
    const kept = shelfSkyOf(made, empty, 'own-1', 'A'.repeat(200));
    expect([kept?.label.length, kept?.altitudeDegrees]).toEqual([80, expect.closeTo(23, 6)]);
    expect(readShelfSky(JSON.parse(JSON.stringify(kept)))).toEqual(kept);
    const lit = after(empty, { type: 'set-sun', from: 'hand', params: { azimuthDegrees: -110, altitudeDegrees: 12 } });
    const used = skyValuesOf(shelfSky(kept as NonNullable<typeof kept>, lit, null));
    expect(used).toMatchObject({ turbidity: 4, clouds: 'cirrus', coverPercent: 70, seed: 5, tint: [1, 0.9, 0.8], altitudeDegrees: expect.closeTo(23, 6), azimuthDegrees: expect.closeTo(-110, 6) });
    // As bright as it was where it was kept.
    expect(luminanceOf(meanSkyLight(used, lit) ?? [0, 0, 0])).toBeCloseTo(luminanceOf(meanSkyLight(made, empty) ?? [0, 0, 0]), 6);
    expect(shelfSkyOf(values({ look: 'photograph' }), empty, 'x', 'x')).toBeNull();
  });
  it('goes under air and lens, over all else', () => {
    const aired = after(empty, { type: 'add-layer', layer: 'fill', zone: 'scene' }, { type: 'add-layer', layer: 'fill', zone: 'scene' });
    expect(sceneryPlace(aired)).toEqual({ zone: 'scene', index: 2 });
    const seen = after(aired, { type: 'add-correction-layer', correction: 'exposure', zone: 'scene' }, { type: 'add-ready-group', group: 'evening-lens' });
    expect(sceneryPlace(seen)).toEqual({ zone: 'scene', index: 3 });
  });
});
