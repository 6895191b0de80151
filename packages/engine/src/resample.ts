import { halfToFloat, floatToHalf, type Plane, planeView, type Size } from '@tazzel/core';

interface Tap {
  readonly first: number;
  readonly weights: readonly number[];
}

/** A triangle as wide as a pixel of the coarser side: linear between samples when enlarging, an average when shrinking. Edges repeat. */
function taps(from: number, to: number): Tap[] {
  const scale = from / to;
  const reach = Math.max(1, scale);
  return Array.from({ length: to }, (_, i) => {
    const centre = (i + 0.5) * scale - 0.5;
    const first = Math.max(0, Math.ceil(centre - reach));
    const last = Math.min(from - 1, Math.floor(centre + reach));
    const raw = Array.from({ length: Math.max(1, last - first + 1) }, (_, k) => Math.max(0, 1 - Math.abs(first + k - centre) / reach));
    const sum = raw.reduce((a, b) => a + b, 0);
    return sum > 0 ? { first, weights: raw.map((weight) => weight / sum) } : { first: Math.min(from - 1, Math.max(0, Math.round(centre))), weights: [1] };
  });
}

/** A plane at another size. Values that must survive (IDs) are taken from the nearest pixel, all others are filtered. */
export function resamplePlane(plane: Plane, size: Size, keepsValues: boolean, allocate: (byteLength: number) => ArrayBufferLike): Plane {
  const { type, width, height, data } = plane;
  const out = planeView(type, allocate(size.width * size.height * data.BYTES_PER_ELEMENT));
  if (keepsValues || type === 'u32') {
    for (let y = 0; y < size.height; y++) {
      const row = Math.min(height - 1, Math.floor(((y + 0.5) * height) / size.height)) * width;
      for (let x = 0; x < size.width; x++) out[y * size.width + x] = data[row + Math.min(width - 1, Math.floor(((x + 0.5) * width) / size.width))];
    }
    return { type, ...size, data: out };
  }
  const value = type === 'f16' ? (i: number) => halfToFloat(data[i]) : (i: number) => data[i];
  const [across, down] = [taps(width, size.width), taps(height, size.height)];
  const rows = new Map<number, Float32Array>();
  const wideRow = (y: number): Float32Array => {
    const known = rows.get(y);
    if (known) return known;
    const made = Float32Array.from(across, ({ first, weights }) => weights.reduce((sum, weight, k) => sum + weight * value(y * width + first + k), 0));
    rows.set(y, made);
    return made;
  };
  const store = type === 'f16' ? floatToHalf : type === 'f32' ? (v: number) => v : Math.round;
  for (let y = 0; y < size.height; y++) {
    const { first, weights } = down[y];
    for (const known of rows.keys()) if (known < first) rows.delete(known);
    const used = weights.map((_, k) => wideRow(first + k));
    for (let x = 0; x < size.width; x++) {
      let sum = 0;
      for (let k = 0; k < weights.length; k++) sum += weights[k] * used[k][x];
      out[y * size.width + x] = store(sum);
    }
  }
  return { type, ...size, data: out };
}
