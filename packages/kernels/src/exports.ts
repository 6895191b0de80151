/** What the compiled module offers. Pointers are byte addresses, counts are samples; see assembly/. */
type Blend = (r: number, g: number, b: number, a: number, sr: number, sg: number, sb: number, sa: number, n: number, opaque: boolean) => void;
/** Those that ask for it are given the places of pixels, and the registers of other elements. */
type Correct = (r: number, g: number, b: number, params: number, n: number, x: number, y: number, ...others: number[]) => void;
/** At the places of pixels, with the registers of what is read there. */
type Generate = (r: number, g: number, b: number, a: number, x: number, y: number, params: number, n: number, step: number, table: number, ...others: number[]) => void;
type Join = (r: number, g: number, b: number, r0: number, g0: number, b0: number, n: number) => void;

export interface KernelExports {
  heapStart(): number;
  ray_walk(nodes: number, blocks: number, work: number, out: number, room: number, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, near: number, far: number, any: boolean): number;
  load_u8(dst: number, src: number, n: number): void;
  load_u16(dst: number, src: number, n: number): void;
  load_u8_table(dst: number, src: number, n: number, table: number): void;
  load_u16_table(dst: number, src: number, n: number, table: number): void;
  load_u32(dst: number, src: number, n: number): void;
  load_f16(dst: number, src: number, n: number): void;
  add_f16(dst: number, src: number, n: number, gain: number): void;
  add_scaled(dst: number, from: number, n: number, gain: number): void;
  load_f32(dst: number, src: number, n: number): void;
  fill(dst: number, value: number, n: number): void;
  srgb_encode(p: number, n: number): void;
  tone_table(r: number, g: number, b: number, params: number, n: number): void;
  srgb_decode(p: number, n: number): void;
  scale_offset(p: number, scale: number, offset: number, n: number): void;
  clamp_unit(p: number, n: number): void;
  coverage(out: number, n: number, opacity: number, alpha: number, mask: number, invertMask: boolean): number;
  multiply_alpha(p: number, alpha: number, n: number): void;
  divide_alpha(p: number, alpha: number, n: number): void;
  mix(target: number, changed: number, weight: number, n: number): void;
  pack_rgba8(out: number, r: number, g: number, b: number, a: number, n: number, opaque: boolean, thresholds: number, phase: number): void;
  pack_rgba16(out: number, r: number, g: number, b: number, a: number, n: number, opaque: boolean): void;
  to_half(out: number, src: number, n: number): void;
  reduce_u8(out: number, upper: number, lower: number, width: number): void;
  reduce_u16(out: number, upper: number, lower: number, width: number): void;
  reduce_f32(out: number, upper: number, lower: number, width: number): void;
  copy_finite(dst: number, src: number, n: number): void;
  halve(dst: number, src: number, width: number, height: number, line: number): void;
  convolve_rows(dst: number, src: number, width: number, rows: number, weights: number, taps: number): void;
  convolve_columns(dst: number, src: number, width: number, height: number, weights: number, taps: number): void;
  enlarge_rows(dst: number, src: number, width: number, coarse: number, rows: number, start: number, first: number, by: number, splines: number): void;
  enlarge_columns(dst: number, src: number, width: number, height: number, start: number, first: number, by: number, splines: number): void;
  sum_planes(out: number, rows: number, count: number, n: number): void;
  local_moments(out: number, planes: number, area: number): void;
  local_fit(out: number, moments: number, area: number, variance: number): void;
  local_join(out: number, planes: number, area: number, params: number, bases: number, curve: number): void;
  smooth_stops(out: number, planes: number, n: number): void;
  smooth(out: number, from: number, stops: number, width: number, height: number, distance: number, falloff: number, guides: number, count: number): void;
  interleave(dst: number, src: number, n: number): void;
  warp(dst: number, src: number, fromWidth: number, fromHeight: number, width: number, height: number, a: number, b: number, c: number, d: number, e: number, f: number, stretchX: number, stretchY: number, radius: number, table: number, columns: number, rows: number, whole: boolean): void;
  sides(out: number, from: number, width: number, height: number): void;
  bend_sample(out: number, from: number, across: number, u: number, v: number, n: number): void;
  around(red: number, green: number, blue: number, from: number, width: number, height: number, isWhole: boolean, u: number, v: number, n: number): void;
  sized(out: number, table: number, sizes: number, planes: number, u: number, v: number, wide: number, n: number, asideU: number, asideV: number, blur: number): void;
  figure_met(list: number, most: number, card: number, x: number, y: number, width: number, height: number, stride: number, originX: number, originY: number, found: number): number;
  figure_shown(list: number, most: number, count: number, alpha: number, visible: number, sides: number, area: number): number;
  figure_lit(colors: number, count: number, slopes: number, light: number): void;
  figure_laid(out: number, area: number, list: number, most: number, colors: number, visible: number, count: number, shines: number, shine: number): void;
  figure_taken(list: number, most: number, open: number, cast: number, balls: number, count: number, spans: number, sides: number, normals: number, area: number, y: number, height: number, stride: number, originX: number, originY: number, found: number): number;
  figure_shaded(out: number, lit: number, open: number, bySun: number, byAll: number, usual: number, area: number): void;
  focus_parted(out: number, planes: number, sides: number, width: number, height: number): void;
  focus_circles(out: number, metres: number, n: number, lens: number): void;
  focus_slice(out: number, planes: number, circles: number, share: number, n: number, range: number): number;
  focus_summed(out: number, from: number, n: number, by: number): void;
  focus_disc(out: number, from: number, width: number, height: number, stride: number, across: number, taps: number, full: number, count: number): void;
  focus_behind(sum: number, slice: number, n: number): void;
  focus_continued(sum: number, front: number, n: number, enough: number): void;
  focus_weighed(out: number, sum: number, n: number, gain: number): void;
  inflate(dst: number, n: number, src: number, packed: number): number;
  exr_restore(dst: number, src: number, n: number): void;
  exr_prepare(dst: number, src: number, n: number): void;
  piz_symbols(out: number, n: number, src: number, bitCount: number, quick: number, long: number, symbols: number, longest: number, runSymbol: number): number;
  piz_wavelet(data: number, width: number, stepX: number, height: number, stepY: number, wide: boolean): void;
  piz_values(data: number, n: number, table: number): void;
  dwa_blocks(out: number, width: number, rows: number, channels: number, ac: number, acCount: number, dc: number, zigzag: number, light: number, scratch: number): number;
  b44_channel(out: number, stride: number, width: number, rows: number, src: number, end: number): number;
  generate_fill: Generate;
  generate_air: Generate;
  generate_sky: Generate;
  [blend: `blend_${string}`]: Blend;
  [correct: `correct_${string}`]: Correct;
  [join: `join_${string}`]: Join;
}

/** `color-burn` → `color_burn`: kernel names follow the ids of the operations that name them. */
const exportName = (kernel: string) => kernel.replaceAll('-', '_');

export function blendKernel(exports: KernelExports, kernel: string): Blend {
  const found = exports[`blend_${exportName(kernel)}`];
  if (!found) throw new Error(`The kernels hold no blend “${kernel}”.`);
  return found;
}

export function correctKernel(exports: KernelExports, kernel: string): Correct {
  const found = exports[`correct_${exportName(kernel)}`];
  if (!found) throw new Error(`The kernels hold no correction “${kernel}”.`);
  return found;
}

export function joinKernel(exports: KernelExports, kernel: string): Join {
  const found = exports[`join_${exportName(kernel)}`];
  if (!found) throw new Error(`The kernels hold no correction blend “${kernel}”.`);
  return found;
}
