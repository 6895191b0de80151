/** Corrections of light: exposure, highlight limit, contrast, and the mixes of channels. */
import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { correct } from '../../../../tests/correct.ts';
import { seeded } from '../../../../tests/random.ts';
import { PERCENTS } from '../raster/measure.ts';
import type { Triple } from '../vector.ts';
import { blackAndWhite } from './black-and-white.ts';
import { channelMix } from './channel-mix.ts';
import { camera, exposureValue } from '../camera/camera.ts';
import { completeParams, defaultsOf } from '../params/table.ts';
import { cameraExposure } from './camera-exposure.ts';
import { contrast } from './contrast.ts';
import { exposure } from './exposure.ts';
import { highlightLimit } from './highlight-limit.ts';
import { toneColours } from './tone-colours.ts';
import { vibrance } from './vibrance.ts';

describe('camera exposure', () => {
  // ISO 2720; the sunny-16 rule: f/16 and 1/100 at ISO 100 is EV 14.64, four stops more at f/4, one more at ISO 200.
  it('is the difference in exposure value, from the camera of the render', () => {
    const begun = cameraExposure.begin?.({ ...defaultsOf(camera), fNumber: 16, shutterSeconds: 0.01, iso: 100 } as never) ?? {};
    expect(cameraExposure.isNoOp(completeParams(cameraExposure, begun))).toBe(true);
    expectClose(correct(cameraExposure, [0.18, 1, 0], { ...begun, fNumber: 4 }), [0.18 * 16, 16, 0], 1e-5);
    expectClose(correct(cameraExposure, [1, 1, 1], { ...begun, iso: 200 }), [2, 2, 2], 1e-6);
    expectClose(correct(cameraExposure, [1, 1, 1], { ...begun, fNumber: 8, shutterSeconds: 0.0025 }), [1, 1, 1], 1e-6);
    expect(Math.round(exposureValue(16, 0.01, 100) * 1e4) / 1e4).toBe(14.6439);
  });
});

const grey = (value: number): Triple => [value, value, value];
const random = seeded(41);
const colors = Array.from({ length: 60 }, (): Triple => [random() * 2, random() * 2, random() * 2]);

describe('exposure', () => {
  it('moves the middle by gamma; black, white and what is below black stay', () => {
    expectClose(correct(exposure, [0, 1, 0.25], { gamma: 2 }), [0, 1, 0.5], 1e-6);
    expectClose(correct(exposure, [-0.2, 4, 0.5], { gamma: 0.5, offset: 0.1 }), [-0.1, 16.81, 0.36], 1e-6);
  });
  it('brings mid grey where it is clicked, and the median there by itself', () => {
    const params = { exposureStops: 0, offset: 0, gamma: 1 };
    expectClose(correct(exposure, [0.72, 0.72, 0.72], exposure.picks?.[0].take([0.72, 0.72, 0.72], params) ?? {}), grey(0.18), 1e-6);
    expect(exposure.picks?.[0].take([0, 0, 0], params)).toBeNull();
    const spread = (median: number) => PERCENTS.map((percent) => (percent === 50 ? median : 99));
    const entering = (median: number) => ({ red: spread(1), green: spread(1), blue: spread(1), luminance: spread(median) });
    expect(exposure.automatic?.(entering(0.045), params)).toEqual({ exposureStops: 2 });
    expect(exposure.automatic?.(entering(0), params)).toBeNull();
  });
});

describe('highlight limit', () => {
  it('keeps the proportion of channels, so that hue and saturation stay, and never turns back', () => {
    for (const limitPercent of [0, 25, 60, 90, 99]) {
      for (const rgb of colors) {
        const held = correct(highlightLimit, rgb, { limitPercent });
        const factor = held[0] / rgb[0];
        expectClose(held, [rgb[0] * factor, rgb[1] * factor, rgb[2] * factor], 1e-6);
        expect(factor).toBeLessThanOrEqual(1 + 1e-6);
      }
      let before = -1;
      for (let stops = -6; stops < 20; stops += 0.25) {
        const [value] = correct(highlightLimit, grey(2 ** stops), { limitPercent });
        expect(value).toBeGreaterThanOrEqual(before);
        before = value;
      }
    }
  });
  it('brings burnt light below white as it is lowered, by its definition: Reinhard over a knee', () => {
    // Reinhard et al. 2002, eq. 3: x / (1 + x) at the lower end.
    for (const x of [0.18, 1, 4, 11.2]) expectClose(correct(highlightLimit, grey(x), { limitPercent: 0 }), grey(x / (1 + x)), 1e-6);
    const burnt = [100, 90, 70, 50, 30, 10].map((limitPercent) => correct(highlightLimit, grey(1.6), { limitPercent })[0]);
    for (let i = 1; i < burnt.length; i++) expect(burnt[i]).toBeLessThan(burnt[i - 1]);
    expect(burnt[0]).toBeCloseTo(1.6, 6);
    expect(burnt.at(-1)).toBeLessThan(0.7);
    // Just below 100 it does next to nothing.
    expectClose(correct(highlightLimit, grey(1.6), { limitPercent: 99.9 }), grey(1.6), 5e-3);
  });
  it('leaves alone what lies below, and 1e6 finite', () => {
    expect(correct(highlightLimit, [0.2, 0.3, 0.1], { limitPercent: 60 })).toEqual([0.2, 0.3, 0.1]);
    expect(correct(highlightLimit, [-0.2, 0.3, -1], { limitPercent: 60 })).toEqual([-0.2, 0.3, -1]);
    expect(correct(highlightLimit, [1e6, 1e5, 0], { limitPercent: 50 }).every((value) => value >= 0 && value <= 1.1)).toBe(true);
  });
});

describe('contrast of light', () => {
  it('keeps its pivot and is a line through it in stops', () => {
    for (const pivot of [0.05, 0.18, 1]) {
      for (const contrastPercent of [-50, 40, 150]) {
        expectClose(correct(contrast, grey(pivot), { contrastPercent, pivot }), grey(pivot), 1e-5);
        for (const stops of [-3, 1, 2]) expect(Math.log2(correct(contrast, grey(pivot * 2 ** stops), { contrastPercent, pivot })[0] / pivot)).toBeCloseTo(stops * (1 + contrastPercent / 100), 4);
      }
    }
  });
  it('takes its pivot from a click', () => {
    expect(contrast.picks?.[0].take([0.4, 0.4, 0.4], { contrastPercent: 0, pivot: 0.18 })?.pivot).toBeCloseTo(0.4, 6);
  });
});

describe('vibrance', () => {
  // Hue and lightness by culori's OKLCh; the share that is gained is ours.
  it('keeps lightness and hue of OKLCh, and gives faint colours more than strong ones', () => {
    const toLch = converter('oklch');
    const gains: { chroma: number; gain: number }[] = [];
    for (const rgb of colors) {
      const [before, after] = [rgb, correct(vibrance, rgb, { amountPercent: 60 })].map(([r, g, b]) => toLch({ mode: 'lrgb', r, g, b }));
      expect(after.l).toBeCloseTo(before.l, 4);
      if (before.c > 0.01) expect(Math.abs(((((after.h ?? 0) - (before.h ?? 0)) % 360) + 540) % 360 - 180)).toBeLessThan(0.1);
      gains.push({ chroma: before.c, gain: after.c / before.c });
    }
    gains.sort((a, b) => a.chroma - b.chroma);
    for (let i = 1; i < gains.length; i++) expect(gains[i].gain).toBeLessThanOrEqual(gains[i - 1].gain + 1e-4);
    expectClose(correct(vibrance, grey(0.4), { amountPercent: 200 }), grey(0.4), 1e-5);
  });
});

describe('mixes of channels', () => {
  // ITU-R BT.709-6: the shares of luminance.
  it('are luminance by default in black and white, and keep grey whatever the weights', () => {
    for (const [r, g, b] of colors) expectClose(correct(blackAndWhite, [r, g, b], {}), grey(0.2126 * r + 0.7152 * g + 0.0722 * b), 2e-3);
    for (const params of [{ redPercent: 100, greenPercent: 0, bluePercent: 0 }, { redPercent: -40, greenPercent: 90, bluePercent: 10 }, { redPercent: 50, greenPercent: -50, bluePercent: 0 }]) expectClose(correct(blackAndWhite, grey(0.3), params), grey(0.3), 1e-6);
    expectClose(correct(blackAndWhite, [0.9, 0.1, 0.5], { redPercent: 100, greenPercent: 0, bluePercent: 0 }), grey(0.9), 1e-6);
  });
  it('make each channel of the shares that are given', () => {
    expectClose(correct(channelMix, [0.2, 0.4, 0.8], { red: [0, 100, 0], green: [50, 0, 50], blue: [-50, 0, 100] }), [0.4, 0.5, 0.7], 1e-6);
  });
});

describe('colours by tone', () => {
  it('runs from the colour of shadows over that of middles to that of highlights', () => {
    const params = { amountPercent: 100, shadows: [0, 0, 0.2], middles: [0.2140411, 0, 0], highlights: [1, 1, 0], middlePercent: 40 } as const;
    expectClose(correct(toneColours, grey(1), params), [1, 1, 0], 1e-5);
    expectClose(correct(toneColours, grey(0.4), params), [0.5, 0, 0], 2e-2);
    expect(correct(toneColours, grey(0), params)[2]).toBeGreaterThan(0.4);
    expectClose(correct(toneColours, [0.1, 0.5, 0.3], { ...params, amountPercent: 0 }), [0.1, 0.5, 0.3], 1e-6);
  });
});
