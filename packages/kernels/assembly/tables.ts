// Point corrections that look numbers up in tables. Pixels go one by one: there is no vector load from many places.

/** A number of a table with `steps` + 1 entries for 0…1; what lies beyond counts as the end, NaN as 0. */
// @ts-ignore: decorator
@inline
function looked(table: usize, steps: f32, x: f32): f32 {
  const inside = x > 0 ? (x < 1 ? x : 1) : 0;
  const at = inside * steps;
  // The last entry has none behind it.
  const whole = min<f32>(floor(at), steps - 1);
  const from = table + ((<usize>(<u32>whole)) << 2);
  const a = load<f32>(from);
  return a + (at - whole) * (load<f32>(from, 4) - a);
}

// @ts-ignore: decorator
@inline
export function luminosity(red: f32, green: f32, blue: f32): f32 {
  return <f32>0.3 * red + <f32>0.59 * green + <f32>0.11 * blue;
}

/** Writes a colour whose luminosity becomes `wanted`, brought back into 0…1 along its own direction. @source W3C Compositing and Blending, SetLum */
// @ts-ignore: decorator
@inline
export function storeWithLuminosity(r: usize, g: usize, b: usize, red: f32, green: f32, blue: f32, wanted: f32): void {
  const d = wanted - luminosity(red, green, blue);
  let x = red + d;
  let y = green + d;
  let z = blue + d;
  const l = luminosity(x, y, z);
  const least = min(x, min(y, z));
  const most = max(x, max(y, z));
  if (least < 0 && l > least) {
    const scale = l / (l - least);
    x = l + (x - l) * scale;
    y = l + (y - l) * scale;
    z = l + (z - l) * scale;
  }
  if (most > 1 && most > l) {
    const scale = (<f32>1 - l) / (most - l);
    x = l + (x - l) * scale;
    y = l + (y - l) * scale;
    z = l + (z - l) * scale;
  }
  store<f32>(r, x);
  store<f32>(g, y);
  store<f32>(b, z);
}

/** Whether luminosity has a curve, the number of steps; then the tables of red, green, blue, luminosity. */
export function correct_curves(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const hasLuminosity = load<f32>(params) != 0;
  const steps = load<f32>(params, 4);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const red = params + 8;
  const green = red + length;
  const blue = green + length;
  const light = blue + length;
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 4) {
    const x = looked(red, steps, load<f32>(r + at));
    const y = looked(green, steps, load<f32>(g + at));
    const z = looked(blue, steps, load<f32>(b + at));
    if (hasLuminosity) storeWithLuminosity(r + at, g + at, b + at, x, y, z, looked(light, steps, luminosity(x, y, z)));
    else {
      store<f32>(r + at, x);
      store<f32>(g + at, y);
      store<f32>(b + at, z);
    }
  }
}

/** Whether the luminosity stays, the number of steps; then what red, green and blue are moved by, over luminosity. */
export function correct_tone_shift(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const staysLight = load<f32>(params) != 0;
  const steps = load<f32>(params, 4);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const red = params + 8;
  const green = red + length;
  const blue = green + length;
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 4) {
    const x = load<f32>(r + at);
    const y = load<f32>(g + at);
    const z = load<f32>(b + at);
    const l = luminosity(x, y, z);
    const x2 = x + looked(red, steps, l);
    const y2 = y + looked(green, steps, l);
    const z2 = z + looked(blue, steps, l);
    if (staysLight) storeWithLuminosity(r + at, g + at, b + at, x2, y2, z2, l);
    else {
      store<f32>(r + at, min<f32>(1, max<f32>(0, x2)));
      store<f32>(g + at, min<f32>(1, max<f32>(0, y2)));
      store<f32>(b + at, min<f32>(1, max<f32>(0, z2)));
    }
  }
}

// @ts-ignore: decorator
@inline
function weighed(matrix: usize, x: f32, y: f32, z: f32): f32 {
  return load<f32>(matrix) * x + load<f32>(matrix, 4) * y + load<f32>(matrix, 8) * z;
}

/** Odd cube root: an estimate from the exponent, then two steps of Halley's method. */
// @ts-ignore: decorator
@inline
function cubeRootOf(x: f32): f32 {
  const magnitude = abs(x);
  // Below this the cube underflows; such light is black.
  if (!(magnitude > <f32>1e-30)) return 0;
  let y = reinterpret<f32>(<i32>(<f32>reinterpret<i32>(magnitude) * <f32>0.33333334) + 709921077);
  for (let step = 0; step < 2; step++) {
    const cube = y * y * y;
    y *= (cube + magnitude + magnitude) / (cube + cube + magnitude);
  }
  return copysign(y, x);
}

/** Writes the light of a colour in Lab, by two matrices: to cones, and from their cubes to light. */
// @ts-ignore: decorator
@inline
function storeLab(r: usize, g: usize, b: usize, matrices: usize, lightness: f32, greenRed: f32, blueYellow: f32): void {
  const l = weighed(matrices, lightness, greenRed, blueYellow);
  const m = weighed(matrices + 12, lightness, greenRed, blueYellow);
  const s = weighed(matrices + 24, lightness, greenRed, blueYellow);
  const l3 = l * l * l;
  const m3 = m * m * m;
  const s3 = s * s * s;
  store<f32>(r, weighed(matrices + 36, l3, m3, s3));
  store<f32>(g, weighed(matrices + 48, l3, m3, s3));
  store<f32>(b, weighed(matrices + 60, l3, m3, s3));
}

/** Where a direction lies around the circle, from 0 to 4: grows with its angle and needs no arc tangent. */
// @ts-ignore: decorator
@inline
function roundOf(a: f32, b: f32): f32 {
  const sum = abs(a) + abs(b);
  if (!(sum > 0)) return 0;
  const share = b / sum;
  return a >= 0 ? (b >= 0 ? share : 4 + share) : 2 - share;
}

/** Four matrices (to cones, to Lab, to cones, to light), the chroma from which light changes fully, the number of steps; then tables around the circle: along, across, light. */
export function correct_hue_families(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const fullChroma = load<f32>(params, 144);
  const steps = load<f32>(params, 148);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const along = params + 152;
  const across = along + length;
  const light = across + length;
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 4) {
    const red = load<f32>(r + at);
    const green = load<f32>(g + at);
    const blue = load<f32>(b + at);
    const l = cubeRootOf(weighed(params, red, green, blue));
    const m = cubeRootOf(weighed(params + 12, red, green, blue));
    const s = cubeRootOf(weighed(params + 24, red, green, blue));
    const lightness = weighed(params + 36, l, m, s);
    const a0 = weighed(params + 48, l, m, s);
    const b0 = weighed(params + 60, l, m, s);
    const place = roundOf(a0, b0) * <f32>0.25;
    const cosine = looked(along, steps, place);
    const sine = looked(across, steps, place);
    const chroma = sqrt(a0 * a0 + b0 * b0);
    const share = min<f32>(1, chroma / fullChroma);
    const gain = <f32>1 + share * (looked(light, steps, place) - <f32>1);
    const lightness2 = lightness * gain;
    storeLab(r + at, g + at, b + at, params + 72, lightness2, (cosine * a0 - sine * b0) * gain, (sine * a0 + cosine * b0) * gain);
  }
}

/** How much of the colour is mixed in, the number of steps; then the tables of red, green and blue over luminosity. */
export function correct_ramp(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const amount = load<f32>(params);
  const steps = load<f32>(params, 4);
  const length = ((<usize>(<u32>steps)) + 1) << 2;
  const red = params + 8;
  const green = red + length;
  const blue = green + length;
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 4) {
    const x = load<f32>(r + at);
    const y = load<f32>(g + at);
    const z = load<f32>(b + at);
    const l = luminosity(x, y, z);
    store<f32>(r + at, x + amount * (looked(red, steps, l) - x));
    store<f32>(g + at, y + amount * (looked(green, steps, l) - y));
    store<f32>(b + at, z + amount * (looked(blue, steps, l) - z));
  }
}

/** Four matrices (to cones, to Lab, to cones, to light), how much more chroma greys get, and the chroma at which half of it is left. */
export function correct_vibrance(r: usize, g: usize, b: usize, params: usize, n: i32): void {
  const amount = load<f32>(params, 144);
  const half = load<f32>(params, 148);
  const end = (<usize>n) << 2;
  for (let at: usize = 0; at < end; at += 4) {
    const red = load<f32>(r + at);
    const green = load<f32>(g + at);
    const blue = load<f32>(b + at);
    const l = cubeRootOf(weighed(params, red, green, blue));
    const m = cubeRootOf(weighed(params + 12, red, green, blue));
    const s = cubeRootOf(weighed(params + 24, red, green, blue));
    const lightness = weighed(params + 36, l, m, s);
    const a0 = weighed(params + 48, l, m, s);
    const b0 = weighed(params + 60, l, m, s);
    const chroma = sqrt(a0 * a0 + b0 * b0);
    const gain = <f32>1 + (amount * half) / (half + chroma);
    storeLab(r + at, g + at, b + at, params + 72, lightness, a0 * gain, b0 * gain);
  }
}
