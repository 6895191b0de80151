import { describe, expect, it } from 'vitest';
import { expectClose } from '../../../../tests/close.ts';
import { multiply } from './oklab.ts';
import { adaptation, DISPLAY_P3, invertMatrix, type Primaries, REC709, rgbToRgb, rgbToXyz, timesMatrix, toRec709 } from './primaries.ts';

const AP1: Primaries = { red: [0.713, 0.293], green: [0.165, 0.83], blue: [0.128, 0.044], white: [0.32168, 0.33767] };
const AP0: Primaries = { red: [0.7347, 0.2653], green: [0, 1], blue: [0.0001, -0.077], white: [0.32168, 0.33767] };

// REFERENCES 2.2 and 2.3: SMPTE RP 177:1993 matrices checked with culori, colorjs.io and OpenColorIO; Bradford with colorjs.io.
describe('primaries and whites', () => {
  it('sRGB and P3 to XYZ, and from one to the other', () => {
    expectClose(rgbToXyz(REC709).flat(), [0.4123908, 0.3575843, 0.1804808, 0.212639, 0.7151687, 0.0721923, 0.0193308, 0.1191948, 0.9505322], 1e-6);
    expectClose(rgbToRgb(DISPLAY_P3, REC709).flat(), [1.2249402, -0.2249402, 0, -0.042057, 1.042057, 0, -0.0196376, -0.078636, 1.0982736], 1e-6);
  });
  it('ACES primaries, one of which has a negative y, with the white adapted by Bradford', () => {
    expectClose(rgbToRgb(AP1, REC709).flat(), [1.705051, -0.6217921, -0.0832589, -0.1302564, 1.1408047, -0.0105483, -0.0240034, -0.128969, 1.1529723], 1e-5);
    expectClose(rgbToRgb(AP0, AP1).flat(), [1.4514393, -0.2365107, -0.2149286, -0.0765538, 1.1762297, -0.0996759, 0.0083161, -0.0060324, 0.9977163], 1e-5);
    expectClose(multiply(toRec709(AP1) ?? [], [0.18, 0.18, 0.18]), [0.18, 0.18, 0.18], 1e-6);
  });
  it('Bradford from D65 to D50', () => expectClose(adaptation([0.3127, 0.329], [0.3457, 0.3585]).flat(), [1.0479298, 0.0229469, -0.0501923, 0.0296278, 0.9904344, -0.0170738, -0.009243, 0.0150552, 0.7518743], 1e-6));
  it('Rec. 709 with rounded figures needs no conversion, an inverse is one', () => {
    expect(toRec709({ ...REC709, white: [0.3127, 0.3291] })).toBeNull();
    expect(toRec709(DISPLAY_P3)).not.toBeNull();
    expectClose(timesMatrix(invertMatrix(rgbToXyz(AP0)), rgbToXyz(AP0)).flat(), [1, 0, 0, 0, 1, 0, 0, 0, 1], 1e-9);
  });
});
