/** The yard's elements, traced sample by sample. Every additive element sums to the beauty exactly, before rounding to half. */
import { add, cross, dot, isBlocked, normalize, type Primitive, scale, sub, times, trace, type Vec } from './geometry.ts';
import { generator, groundBounce, lamps, primitives, sky, skyAbove, sunDirection, sunLight, surfaces, windowLight } from './scene.ts';

const SAMPLES_PER_SIDE = 4;
const AO_REACH = 1.6;
const camera = { eye: [-1.1, 1.62, -12.6] as Vec, target: [-0.9, 2.7, 8] as Vec, focalLengthMm: 26, sensorMm: 36 };

/** Names are the layers of the EXR file; three planes each, or one. */
export interface Elements {
  readonly planes: ReadonlyMap<string, Float32Array>;
  /** Display values, RGBA bytes, antialiased as renderers write ID pictures. */
  readonly ids: Uint8Array;
}

const solid = primitives.filter((primitive) => primitive.material !== 'lamp');
const mean = (from: Vec, to: Vec, share: number): Vec => add(scale(from, 1 - share), scale(to, share));

/** Light that falls onto a point, without its surface's colour; and how open the point lies. */
function lightAt(p: Vec, n: Vec, random: () => number, within: readonly Primitive[]): { light: Vec; open: number } {
  const jitter = (): number => (random() - 0.5) * 0.035;
  const toSun = normalize([sunDirection[0] + jitter(), sunDirection[1] + jitter(), sunDirection[2] + jitter()]);
  const facing = dot(n, toSun);
  let light: Vec = facing > 0 && !isBlocked(within, p, toSun, 400) ? scale(sunLight, facing) : [0, 0, 0];
  const aside = normalize(Math.abs(n[1]) > 0.9 ? cross(n, [1, 0, 0]) : cross(n, [0, 1, 0]));
  const across = cross(n, aside);
  let open = 0;
  const rays = 2;
  for (let i = 0; i < rays; i++) {
    // Cosine-weighted, so that the mean of what is free is the ambient share.
    const [angle, r] = [random() * Math.PI * 2, Math.sqrt(random())];
    const direction = normalize(add(add(scale(aside, r * Math.cos(angle)), scale(across, r * Math.sin(angle))), scale(n, Math.sqrt(1 - r * r))));
    open += isBlocked(within, p, direction, AO_REACH) ? 0 : 1 / rays;
  }
  const ambient = mean(groundBounce, skyAbove, 0.5 + 0.5 * n[1]);
  light = add(light, scale(ambient, 0.15 + 0.85 * open));
  for (const { at, power } of [...lamps, windowLight]) {
    const to = sub(at, p);
    const squared = Math.max(0.05, dot(to, to));
    const direction = normalize(to);
    const cosine = dot(n, direction);
    if (cosine <= 0 || squared > 150) continue;
    if (at !== windowLight.at && isBlocked(solid, p, direction, Math.sqrt(squared) - 0.2)) continue;
    light = add(light, scale(power, cosine / squared));
  }
  return { light, open };
}

/** What is seen in a mirror: the lit colour of what the ray meets. */
function seen(origin: Vec, direction: Vec, random: () => number): Vec {
  const hit = trace(primitives, origin, direction);
  if (!hit) return sky(direction);
  const p = add(origin, scale(direction, hit.t));
  const surface = surfaces[hit.material];
  const { light } = lightAt(add(p, scale(hit.normal, 2e-3)), hit.normal, random, solid);
  return add(times(surface.filter(p, hit.normal), light), surface.glow?.(p, direction) ?? [0, 0, 0]);
}

export function renderElements(width: number, height: number, onRow: (share: number) => void): Elements {
  const area = width * height;
  const names = ['R', 'G', 'B', 'A', 'ambient_occlusion.Y', 'depth.Z'];
  for (const layer of ['diffuse_filter', 'raw_lighting', 'reflection', 'self_illumination', 'background']) for (const c of ['R', 'G', 'B']) names.push(`${layer}.${c}`);
  const planes = new Map(names.map((name) => [name, new Float32Array(area)]));
  const ids = new Uint8Array(area * 4).fill(255);
  const forward = normalize(sub(camera.target, camera.eye));
  const level = normalize([forward[0], 0, forward[2]]);
  // The back stays upright, so verticals are vertical: the view is shifted, not tilted.
  const right = normalize(cross([0, 1, 0], level));
  const half = camera.sensorMm / 2 / camera.focalLengthMm;
  const shift = forward[1] / Math.hypot(forward[0], forward[2]);
  const random = generator(20_211);
  const put = (layer: string, i: number, value: Vec) => ['R', 'G', 'B'].forEach((c, k) => {
    (planes.get(layer === '' ? c : `${layer}.${c}`) as Float32Array)[i] = value[k];
  });
  const total = SAMPLES_PER_SIDE ** 2;

  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let [filter, lit, mirrored, glow, background, id]: Vec[] = Array.from({ length: 6 }, () => [0, 0, 0]);
      let [alpha, open, depth] = [0, 0, Number.POSITIVE_INFINITY];
      for (let s = 0; s < total; s++) {
        const u = (x + ((s % SAMPLES_PER_SIDE) + random()) / SAMPLES_PER_SIDE) / width;
        const v = (y + (Math.floor(s / SAMPLES_PER_SIDE) + random()) / SAMPLES_PER_SIDE) / height;
        const up = (1 - 2 * v) * half * (height / width) + shift;
        const direction = normalize(add(add(level, scale(right, (2 * u - 1) * half)), [0, up, 0]));
        const hit = trace(primitives, camera.eye, direction);
        if (!hit) {
          background = add(background, sky(direction));
          open++;
          continue;
        }
        const p = add(camera.eye, scale(direction, hit.t));
        const surface = surfaces[hit.material];
        const color = surface.filter(p, hit.normal);
        const outside = add(p, scale(hit.normal, 2e-3));
        const here = lightAt(outside, hit.normal, random, solid);
        alpha++;
        open += here.open;
        depth = Math.min(depth, hit.t * dot(direction, level));
        filter = add(filter, color);
        lit = add(lit, times(color, here.light));
        id = add(id, surface.id);
        if (surface.glow) glow = add(glow, surface.glow(p, direction));
        if (surface.mirror > 0) {
          const normal = surface.ripple && hit.normal[1] > 0.5 ? normalize(surface.ripple(p)) : hit.normal;
          const cosine = Math.max(0, -dot(direction, normal));
          const share = surface.mirror + (1 - surface.mirror) * (1 - cosine) ** 5;
          const bounced = normalize(sub(direction, scale(normal, 2 * dot(direction, normal))));
          mirrored = add(mirrored, scale(seen(outside, bounced, random), share));
        }
      }
      const i = y * width + x;
      const averaged = (sum: Vec) => scale(sum, 1 / total);
      const f = averaged(filter);
      const l = averaged(lit);
      put('diffuse_filter', i, f);
      put('raw_lighting', i, [0, 1, 2].map((c) => (f[c] > 0 ? l[c] / f[c] : 0)) as unknown as Vec);
      put('reflection', i, averaged(mirrored));
      put('self_illumination', i, averaged(glow));
      put('background', i, averaged(background));
      put('', i, [l, averaged(mirrored), averaged(glow), averaged(background)].reduce(add));
      (planes.get('A') as Float32Array)[i] = alpha / total;
      (planes.get('ambient_occlusion.Y') as Float32Array)[i] = open / total;
      (planes.get('depth.Z') as Float32Array)[i] = Number.isFinite(depth) ? depth : 1000;
      for (let c = 0; c < 3; c++) ids[i * 4 + c] = Math.round((id[c] / total) * 255);
    }
    onRow((y + 1) / height);
  }
  return { planes, ids };
}
