/** Planting, grown from seeds: stems that branch, and leaves laid over each other from back to front. Metres, y up. */
import { seeded as random } from '../../tests/random.ts';
import type { Drawn, Rgb } from './bodies.ts';

interface Stroke {
  /** Places along it, and how wide it is there. */
  readonly path: readonly (readonly [x: number, y: number, width: number])[];
  readonly color: Rgb;
}
interface Leaf {
  readonly at: readonly [x: number, y: number];
  readonly length: number;
  readonly width: number;
  readonly angle: number;
  readonly color: Rgb;
  /** What lies in front comes later. */
  readonly depth: number;
}
export interface Plant {
  readonly strokes: readonly Stroke[];
  readonly leaves: readonly Leaf[];
}

const mixed = (a: Rgb, b: Rgb, t: number): Rgb => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];
const scaled = (a: Rgb, by: number): Rgb => [a[0] * by, a[1] * by, a[2] * by];

/** A young tree with a light crown. */
export function youngTree({ seed, metres, bark, leaf, crown, density }: { seed: number; metres: number; bark: Rgb; leaf: readonly [Rgb, Rgb]; crown: number; density: number }): Plant {
  const next = random(seed);
  const strokes: Stroke[] = [];
  const tips: (readonly [number, number])[] = [];
  const grow = (x: number, y: number, angle: number, length: number, width: number, order: number) => {
    const steps = 5;
    const path: [number, number, number][] = [[x, y, width]];
    let [px, py, a] = [x, y, angle];
    for (let k = 1; k <= steps; k++) {
      a += (next() - 0.5) * 0.22;
      px += (Math.sin(a) * length) / steps;
      py += (Math.cos(a) * length) / steps;
      path.push([px, py, width * (1 - (0.55 * k) / steps)]);
      if (order < 4 && k > (order === 0 ? 2 : 1)) {
        const side = next() < 0.5 ? -1 : 1;
        grow(px, py, a + side * (0.45 + next() * 0.5), length * (0.42 + next() * 0.2), width * 0.5, order + 1);
      }
      if (order >= 2) tips.push([px, py]);
    }
    strokes.push({ path, color: scaled(bark, 0.8 + next() * 0.4) });
    if (order > 0) tips.push([px, py]);
  };
  grow(0, 0, (next() - 0.5) * 0.06, metres * crown, metres * 0.016, 0);
  const leaves = tips.flatMap(([x, y]) => Array.from({ length: density }, (): Leaf => {
    const [r, a] = [Math.sqrt(next()) * 0.26, next() * 2 * Math.PI];
    const depth = next();
    // Those at the back are in the shade of the others, those on top are bright.
    const high = Math.min(1, Math.max(0, (y + r * Math.sin(a)) / metres));
    return { at: [x + r * Math.cos(a), y + r * Math.sin(a)], length: 0.05 + next() * 0.035, width: 0.028 + next() * 0.02, angle: next() * 6.3, color: scaled(mixed(leaf[0], leaf[1], next()), 0.35 + 0.55 * depth + 0.25 * high), depth };
  }));
  return { strokes, leaves };
}

/** A round shrub. */
export function shrub({ seed, width, height, leaf, size }: { seed: number; width: number; height: number; leaf: readonly [Rgb, Rgb]; size: number }): Plant {
  const next = random(seed);
  const strokes = Array.from({ length: 16 }, (): Stroke => {
    const lean = (next() - 0.5) * 1.3;
    return { path: [[0.12 * width * (next() - 0.5), 0, 0.016], [lean * width * 0.3, height * 0.5, 0.01], [lean * width * 0.45, height * 0.85, 0.004]], color: [0.07, 0.05, 0.035] };
  });
  const leaves = Array.from({ length: Math.round(3400 * width * height) }, (): Leaf => {
    const a = next() * Math.PI * 2;
    const lobes = 1 + 0.1 * Math.sin(a * 5 + seed) + 0.06 * Math.sin(a * 11);
    const r = Math.sqrt(next()) * lobes;
    const [x, y] = [r * Math.cos(a) * 0.5 * width, height * (0.5 + 0.48 * r * Math.sin(a))];
    const depth = next();
    const rise = y / height;
    return { at: [x, Math.max(0.02, y)], length: size * (0.7 + next() * 0.6), width: size * (0.35 + next() * 0.3), angle: next() * 6.3, color: scaled(mixed(leaf[0], leaf[1], next()), 0.28 + 0.45 * depth + 0.45 * rise), depth };
  });
  return { strokes, leaves };
}

/** Reeds or tall grass: blades from one foot, some with ears. */
export function reeds({ seed, width, height, blade, ear }: { seed: number; width: number; height: number; blade: readonly [Rgb, Rgb]; ear: Rgb }): Plant {
  const next = random(seed);
  const strokes: Stroke[] = [];
  for (let k = 0; k < 150; k++) {
    const x = (next() - 0.5) * width * 0.7;
    const tall = height * (0.45 + 0.55 * next());
    const bow = (next() - 0.5) * 0.7 + x * 0.25;
    const depth = k / 150;
    const color = scaled(mixed(blade[0], blade[1], next()), 0.45 + 0.6 * depth);
    const path = Array.from({ length: 9 }, (_, i) => {
      const t = i / 8;
      return [x + bow * tall * 0.35 * t * t * t + bow * 0.1 * t, tall * (t - 0.12 * Math.abs(bow) * t * t * t), 0.011 * (1 - t * 0.85)] as const;
    });
    strokes.push({ path, color });
    if (next() < 0.22) {
      const [ex, ey] = path[8];
      strokes.push({ path: [[ex, ey - 0.02, 0.012], [ex + bow * 0.03, ey + 0.1, 0.024], [ex + bow * 0.07, ey + 0.2, 0.006]], color: scaled(ear, 0.7 + 0.5 * next()) });
    }
  }
  return { strokes, leaves: [] };
}

/** Samples to each side of a pixel. */
const SIDE = 2;

/** Draws it: what comes later covers what came before. */
export function drawPlant({ strokes, leaves }: Plant, perMetre: number): Drawn {
  const xs = [...strokes.flatMap(({ path }) => path.flatMap(([x, , w]) => [x - w, x + w])), ...leaves.flatMap(({ at: [x], length }) => [x - length, x + length])];
  const ys = [...strokes.flatMap(({ path }) => path.map(([, y, w]) => y + w)), ...leaves.map(({ at: [, y], length }) => y + length)];
  const [low, high, top] = [Math.min(...xs), Math.max(...xs), Math.max(...ys)];
  const width = Math.ceil((high - low) * perMetre) + 4;
  const height = Math.ceil(top * perMetre) + 4;
  const [w, h] = [width * SIDE, height * SIDE];
  const fine = new Float32Array(w * h * 4);
  const scale = perMetre * SIDE;
  const [ox, oy] = [(2 - low * perMetre) * SIDE, (2 + top * perMetre) * SIDE];
  const put = (px: number, py: number, color: Rgb) => {
    if (px < 0 || py < 0 || px >= w || py >= h) return;
    fine.set([...color, 1], (py * w + px) * 4);
  };
  const stroke = ({ path, color }: Stroke) => {
    for (let k = 1; k < path.length; k++) {
      const [ax, ay, aw] = path[k - 1];
      const [bx, by, bw] = path[k];
      const steps = Math.max(1, Math.ceil(Math.hypot(bx - ax, by - ay) * scale));
      for (let s = 0; s <= steps; s++) {
        const t = s / steps;
        const [x, y, r] = [ox + (ax + (bx - ax) * t) * scale, oy - (ay + (by - ay) * t) * scale, Math.max(0.5, ((aw + (bw - aw) * t) * scale) / 2)];
        for (let dx = -Math.ceil(r); dx <= r; dx++) put(Math.floor(x + dx), Math.floor(y), scaled(color, 0.75 + 0.4 * Math.sqrt(Math.max(0, 1 - (dx / r) ** 2)) - 0.15 * (dx / r)));
      }
    }
  };
  const leafAt = ({ at: [x, y], length, width: wide, angle, color }: Leaf) => {
    const [cx, cy] = [ox + x * scale, oy - y * scale];
    const [c, s] = [Math.cos(angle), Math.sin(angle)];
    const [a, b] = [Math.max(0.8, (length * scale) / 2), Math.max(0.6, (wide * scale) / 2)];
    for (let py = Math.floor(cy - a); py <= cy + a; py++) {
      for (let px = Math.floor(cx - a); px <= cx + a; px++) {
        const [u, v] = [(px + 0.5 - cx) * c + (py + 0.5 - cy) * s, (py + 0.5 - cy) * c - (px + 0.5 - cx) * s];
        // Pointed at its ends.
        if (Math.abs(v) <= b * (1 - (u / a) ** 2) && Math.abs(u) < a) put(px, py, scaled(color, v > 0 ? 0.88 : 1.06));
      }
    }
  };
  const ordered = [...leaves].sort((one, other) => one.depth - other.depth);
  const half = ordered.length / 2;
  for (const leaf of ordered.slice(0, half)) leafAt(leaf);
  for (const each of strokes) stroke(each);
  for (const leaf of ordered.slice(half)) leafAt(leaf);
  const rgba = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0, 0];
      for (let s = 0; s < SIDE * SIDE; s++) {
        const at = ((y * SIDE + Math.floor(s / SIDE)) * w + x * SIDE + (s % SIDE)) * 4;
        for (let c = 0; c < 4; c++) sum[c] += fine[at + c];
      }
      if (sum[3] === 0) continue;
      for (let c = 0; c < 3; c++) rgba[(y * width + x) * 4 + c] = sum[c] / sum[3];
      rgba[(y * width + x) * 4 + 3] = sum[3] / (SIDE * SIDE);
    }
  }
  return { width, height, rgba, originX: ox / SIDE, originY: oy / SIDE };
}
