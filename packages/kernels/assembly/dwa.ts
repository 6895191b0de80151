// OpenEXR's DWA: cosine transforms of 8 × 8 blocks of perceptual halves. formats/exr/dwa.ts takes the chunks apart.
import { load_f16 } from "./load";
import { to_half } from "./pack";

/** One-dimensional inverse cosine transform down four columns at a time; `p` holds 8 rows of 8 floats. */
function inverseColumns(p: usize): void {
  // Half the cosines of multiples of π/16.
  const a = f32x4.splat(0.35355338);
  const b = f32x4.splat(0.49039263);
  const c = f32x4.splat(0.46193975);
  const d = f32x4.splat(0.41573480);
  const e = f32x4.splat(0.27778512);
  const f = f32x4.splat(0.19134172);
  const g = f32x4.splat(0.09754516);
  for (let half: usize = 0; half < 32; half += 16) {
    const q = p + half;
    const x0 = v128.load(q);
    const x1 = v128.load(q, 32);
    const x2 = v128.load(q, 64);
    const x3 = v128.load(q, 96);
    const x4 = v128.load(q, 128);
    const x5 = v128.load(q, 160);
    const x6 = v128.load(q, 192);
    const x7 = v128.load(q, 224);
    const odd0 = f32x4.add(f32x4.add(f32x4.mul(b, x1), f32x4.mul(d, x3)), f32x4.add(f32x4.mul(e, x5), f32x4.mul(g, x7)));
    const odd1 = f32x4.sub(f32x4.sub(f32x4.mul(d, x1), f32x4.mul(g, x3)), f32x4.add(f32x4.mul(b, x5), f32x4.mul(e, x7)));
    const odd2 = f32x4.add(f32x4.sub(f32x4.mul(e, x1), f32x4.mul(b, x3)), f32x4.add(f32x4.mul(g, x5), f32x4.mul(d, x7)));
    const odd3 = f32x4.sub(f32x4.add(f32x4.sub(f32x4.mul(g, x1), f32x4.mul(e, x3)), f32x4.mul(d, x5)), f32x4.mul(b, x7));
    const sum = f32x4.mul(a, f32x4.add(x0, x4));
    const difference = f32x4.mul(a, f32x4.sub(x0, x4));
    const even1 = f32x4.add(f32x4.mul(c, x2), f32x4.mul(f, x6));
    const even2 = f32x4.sub(f32x4.mul(f, x2), f32x4.mul(c, x6));
    const y0 = f32x4.add(sum, even1);
    const y1 = f32x4.add(difference, even2);
    const y2 = f32x4.sub(difference, even2);
    const y3 = f32x4.sub(sum, even1);
    v128.store(q, f32x4.add(y0, odd0));
    v128.store(q, f32x4.add(y1, odd1), 32);
    v128.store(q, f32x4.add(y2, odd2), 64);
    v128.store(q, f32x4.add(y3, odd3), 96);
    v128.store(q, f32x4.sub(y3, odd3), 128);
    v128.store(q, f32x4.sub(y2, odd2), 160);
    v128.store(q, f32x4.sub(y1, odd1), 192);
    v128.store(q, f32x4.sub(y0, odd0), 224);
  }
}

function transpose(p: usize): void {
  for (let y: usize = 0; y < 7; y++) {
    for (let x: usize = y + 1; x < 8; x++) {
      const above = p + y * 32 + x * 4;
      const below = p + x * 32 + y * 4;
      const value = load<f32>(above);
      store<f32>(above, load<f32>(below));
      store<f32>(below, value);
    }
  }
}

/**
 * Restores channels of halves that share their blocks: one alone, or luminance and two differences that become red, green and
 * blue. `dc` holds the mean of each block, channel after channel; `ac` the rest, run-length coded, block by block. `zigzag` are
 * 64 bytes: the place in a block of each coefficient. `light` is a table from perceptual halves to light, or 0. `out` are planes of
 * `width` × `rows`, one after the other; `scratch` has room for 2 KB. Returns how many values of `ac` were used, or −1 if they end too early.
 */
export function dwa_blocks(out: usize, width: i32, rows: i32, channels: i32, ac: usize, acCount: i32, dc: usize, zigzag: usize, light: usize, scratch: usize): i32 {
  const across = (width + 7) >> 3;
  const down = (rows + 7) >> 3;
  const blocks = across * down;
  const halves = scratch + 768;
  const floats = scratch + 896;
  const red = f32x4.splat(1.5747);
  const green1 = f32x4.splat(0.1873);
  const green2 = f32x4.splat(0.4682);
  const blue = f32x4.splat(1.8556);
  let at = 0;
  for (let block = 0; block < blocks; block++) {
    for (let channel = 0; channel < channels; channel++) {
      memory.fill(halves, 0, 128);
      store<u16>(halves, load<u16>(dc + ((<usize>(channel * blocks + block)) << 1)));
      let last = 0;
      let i = 1;
      while (i < 64) {
        if (at >= acCount) return -1;
        const value = <u32>load<u16>(ac + ((<usize>at) << 1));
        at++;
        if (value == 0xff00) break;
        if (value >> 8 == 0xff) {
          i += <i32>(value & 0xff);
          continue;
        }
        last = i;
        store<u16>(halves + ((<usize>i) << 1), <u16>value);
        i++;
      }
      const p = scratch + <usize>channel * 256;
      load_f16(floats, halves, 64);
      if (last == 0) {
        const mean = f32x4.splat(load<f32>(floats) * 0.125);
        for (let k: usize = 0; k < 256; k += 16) v128.store(p + k, mean);
        continue;
      }
      // Written turned over, so that one turn between the two passes leaves rows as rows.
      for (let k: usize = 0; k < 64; k++) {
        const place = <usize>load<u8>(zigzag + k);
        store<f32>(p + ((place & 7) << 5) + ((place >> 3) << 2), load<f32>(floats + (k << 2)));
      }
      inverseColumns(p);
      transpose(p);
      inverseColumns(p);
    }
    if (channels == 3) {
      for (let k: usize = 0; k < 256; k += 16) {
        const y = v128.load(scratch + k);
        const b = v128.load(scratch + k, 256);
        const r = v128.load(scratch + k, 512);
        v128.store(scratch + k, f32x4.add(y, f32x4.mul(red, r)));
        v128.store(scratch + k, f32x4.sub(f32x4.sub(y, f32x4.mul(green1, b)), f32x4.mul(green2, r)), 256);
        v128.store(scratch + k, f32x4.add(y, f32x4.mul(blue, b)), 512);
      }
    }
    const left = (block % across) << 3;
    const top = (block / across) << 3;
    const columns = min(8, width - left);
    const lines = min(8, rows - top);
    for (let channel = 0; channel < channels; channel++) {
      to_half(halves, scratch + <usize>channel * 256, 64);
      for (let y = 0; y < lines; y++) {
        const to = out + ((<usize>((channel * rows + top + y) * width + left)) << 1);
        const from = halves + ((<usize>y) << 4);
        if (light != 0) for (let x = 0; x < columns; x++) store<u16>(to + ((<usize>x) << 1), load<u16>(light + ((<usize>load<u16>(from + ((<usize>x) << 1))) << 1)));
        else memory.copy(to, from, (<usize>columns) << 1);
      }
    }
  }
  return at;
}
