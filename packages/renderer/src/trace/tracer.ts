/**
 * The path tracer: one camera sample at a time, its light told apart by path and by light group.
 *
 * At the first surface the sample splits into its lobes (matt, glossy, mirrored, passed through); each follows a path of
 * its own, and everything that the path finds belongs to the lobe's element and to the group of the lamp that sent it. So
 * the elements sum to the beauty, and so do the groups, sample by sample.
 *
 * Light by lamps and the sun is looked for with shadow rays at every matt or glossy surface; the sky is found by the paths
 * themselves and counts as indirect light. Shadow rays go straight through glass and water, weakened as the surface
 * weakens them; light that mirrors throw onto matt surfaces from lamps and the sun (caustics) is left out.
 * @source Kajiya 1986 (the rendering equation by paths); Walter et al. 2007 (glossy surfaces)
 */
import { smoothNoise } from '@tazzel/core';
import { PATH, PATHS, type SlotPlan } from '../film/slots.ts';
import { coneDirection, type Lamp, type LampSample } from '../light/lamps.ts';
import type { CameraDescription } from '../scene/model.ts';
import { distribution, maskingBoth, maskingOne, sampleVisible } from '../surface/microfacets.ts';
import { fresnelDielectric, fresnelPane, fresnelSchlick, phaseHenyeyGreenstein } from '../surface/optics.ts';
import { CameraRays } from './camera.ts';
import { fogDepth, fogReach } from './fog.ts';
import type { RayQueries } from './queries.ts';
import { Sampler } from './sampler.ts';
import { KIND, type Substance, type World } from './world.ts';

export interface TraceSettings {
  readonly width: number;
  readonly height: number;
  readonly seed: number;
  /** From candela per square metre to picture values. */
  readonly exposureScale: number;
  readonly aoMetres: number;
  readonly wantsAo: boolean;
  /** Largest picture value that a single indirect path may add: keeps rare bright paths from staying as specks. */
  readonly brightestPath: number;
  /** All surfaces black, the fog's own light only. */
  readonly fog: boolean;
}

const FAR = 1e9;
/** How far away the sky is that is seen in glass. */
const SKY_WAY = 1e5;
const MOST_BOUNCES = 12;
const SURE_BOUNCES = 3;
/** Glossy surfaces narrower than this find lamps by their own rays, wider ones by shadow rays. */
const NARROW = 0.02;
/** Where a ray of fog ends if it meets nothing, in metres. */
const END_OF_FOG = 4000;
const LUMA_R = 0.2126;
const LUMA_G = 0.7152;
const LUMA_B = 0.0722;
const NOTHING = -1;

export class Tracer {
  /** Sums over the samples since `clear`, in the order of the slot plan. */
  readonly sums: Float64Array;
  /** What the last sample met: numbers of material and object, −1 for nothing. */
  material = NOTHING;
  object = NOTHING;
  /** Behind glass and water, and in mirrors: the material seen there; −1 where there is none or the path did not look. */
  materialThrough = NOTHING;
  materialMirrored = NOTHING;

  readonly #world: World;
  readonly #plan: SlotPlan;
  readonly #settings: TraceSettings;
  readonly #rays: RayQueries;
  readonly #sampler = new Sampler();
  readonly #camera: CameraRays;
  /** Light of the current sample: by path, then by group. */
  readonly #light: Float64Array;
  readonly #color = new Float64Array(3);
  readonly #facet = new Float64Array(3);
  readonly #shares = new Float64Array(3);
  readonly #sky = new Float64Array(3);
  readonly #weights: Float64Array;
  readonly #lamp: LampSample = { x: 0, y: 0, z: 0, distance: 0, factor: 0 };
  readonly #pass: (triangle: number) => boolean;
  // The shadow ray in hand and what is left of its light.
  #rayX = 0;
  #rayY = 0;
  #rayZ = 0;
  #leftR = 1;
  #leftG = 1;
  #leftB = 1;
  // The surface last met: place, shading and geometric normal towards the ray's origin.
  #px = 0;
  #py = 0;
  #pz = 0;
  #nx = 0;
  #ny = 0;
  #nz = 0;
  #gx = 0;
  #gy = 0;
  #gz = 0;
  #isFront = true;
  #hitMaterial = 0;
  #hitObject = 0;
  /** First material on the last walk that rays do not pass through. */
  #seen = NOTHING;
  /** How long the way was to what a path saw first, through glass. */
  #way = 0;
  /** The way to the first surface, and how much of it lies along the camera's axis. */
  #firstWay = 0;
  #along = 1;
  /** How far away that is along the axis which is seen: in glass and mirrors what is seen there. */
  #sight = 0;

  constructor(world: World, camera: CameraDescription, plan: SlotPlan, settings: TraceSettings) {
    this.#world = world;
    this.#plan = plan;
    this.#settings = settings;
    this.#rays = world.rays;
    this.#camera = new CameraRays(camera, settings.width, settings.height);
    this.sums = new Float64Array(plan.size);
    this.#light = new Float64Array(plan.light.length * 3);
    this.#weights = new Float64Array(world.lamps.length);
    this.#pass = (triangle) => this.#passTriangle(triangle);
  }

  clear(): void {
    this.sums.fill(0);
  }

  sample(x: number, y: number, index: number): void {
    const { width, height, seed, fog } = this.#settings;
    const sampler = this.#sampler;
    sampler.start(y * width + x, index, seed);
    this.#light.fill(0);
    this.material = this.object = this.materialThrough = this.materialMirrored = NOTHING;
    const u = (x + sampler.next()) / width;
    const v = (y + sampler.y) / height;
    const camera = this.#camera;
    const lens = sampler.next();
    camera.aim(u, v, lens, sampler.y);
    this.#sight = 0;
    if (fog) this.#fog();
    else this.#first();
    this.sums[this.#plan.rest['seen-depth'].at] += this.#sight;
    this.#collect();
  }

  /** The sample's light joins the sums, with its squares for the estimate of noise. */
  #collect(): void {
    const { sums } = this;
    const light = this.#light;
    const { moments } = this.#plan;
    let beauty = 0;
    for (let slot = 0, at = 0; at < light.length; slot++, at += 3) {
      sums[at] += light[at];
      sums[at + 1] += light[at + 1];
      sums[at + 2] += light[at + 2];
      const luminance = LUMA_R * light[at] + LUMA_G * light[at + 1] + LUMA_B * light[at + 2];
      sums[moments[slot].at] += luminance * luminance;
      if (slot < PATHS.length) beauty += luminance;
    }
    sums[moments[moments.length - 1].at] += beauty * beauty;
  }

  /** Adds light (cd/m²) to a path's element and to its source's group. */
  #add(path: number, group: number, r: number, g: number, b: number, isIndirect: boolean): void {
    let scale = this.#settings.exposureScale;
    if (isIndirect) {
      const value = (LUMA_R * r + LUMA_G * g + LUMA_B * b) * scale;
      if (value > this.#settings.brightestPath) scale *= this.#settings.brightestPath / value;
    }
    const light = this.#light;
    const a = path * 3;
    light[a] += r * scale;
    light[a + 1] += g * scale;
    light[a + 2] += b * scale;
    const k = (PATHS.length + group) * 3;
    light[k] += r * scale;
    light[k + 1] += g * scale;
    light[k + 2] += b * scale;
  }

  #addSky(path: number, dx: number, dy: number, dz: number, r: number, g: number, b: number, isIndirect: boolean): void {
    if (!this.#world.hasSky) return;
    const sky = this.#sky;
    this.#world.sky(dx, dy, dz, sky);
    this.#add(path, 1, r * sky[0], g * sky[1], b * sky[2], isIndirect);
  }

  /** Fills the fields that describe the surface of the nearest hit. */
  #meet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): void {
    const { t, triangle, u, v } = this.#rays;
    const { triangles, normals, material, object } = this.#world.tree;
    this.#px = ox + dx * t;
    this.#py = oy + dy * t;
    this.#pz = oz + dz * t;
    const at = triangle * 9;
    let gx = triangles[at + 4] * triangles[at + 8] - triangles[at + 5] * triangles[at + 7];
    let gy = triangles[at + 5] * triangles[at + 6] - triangles[at + 3] * triangles[at + 8];
    let gz = triangles[at + 3] * triangles[at + 7] - triangles[at + 4] * triangles[at + 6];
    const size = 1 / Math.sqrt(gx * gx + gy * gy + gz * gz);
    const w = 1 - u - v;
    let nx = normals[at] * w + normals[at + 3] * u + normals[at + 6] * v;
    let ny = normals[at + 1] * w + normals[at + 4] * u + normals[at + 7] * v;
    let nz = normals[at + 2] * w + normals[at + 5] * u + normals[at + 8] * v;
    const length = 1 / Math.sqrt(nx * nx + ny * ny + nz * nz);
    this.#isFront = gx * dx + gy * dy + gz * dz < 0;
    const side = this.#isFront ? size : -size;
    gx *= side;
    gy *= side;
    gz *= side;
    nx *= length;
    ny *= length;
    nz *= length;
    if (nx * gx + ny * gy + nz * gz < 0) {
      nx = -nx;
      ny = -ny;
      nz = -nz;
    }
    // A smooth normal that turns away from the eye would show the surface's back: the flat one takes over.
    if (nx * dx + ny * dy + nz * dz > -1e-4) {
      nx = gx;
      ny = gy;
      nz = gz;
    }
    this.#gx = gx;
    this.#gy = gy;
    this.#gz = gz;
    this.#nx = nx;
    this.#ny = ny;
    this.#nz = nz;
    this.#hitMaterial = material[triangle];
    this.#hitObject = object[triangle];
  }

  /** Tilts the normal of a water surface by its waves. */
  #ripple(substance: Substance): void {
    if (substance.waveSlope === 0 || Math.abs(this.#gy) < 0.7) return;
    const f = 1 / substance.waveMetres;
    const [x, z] = [this.#px * f, this.#pz * f];
    const e = 0.05;
    const height = (a: number, b: number) => smoothNoise(a + 0.4 * b, 3.7, b * 0.7) + 0.4 * smoothNoise(a * 2.3 - b, 8.1, b * 1.9);
    const here = height(x, z);
    const sx = ((height(x + e, z) - here) / e) * substance.waveSlope;
    const sz = ((height(x, z + e) - here) / e) * substance.waveSlope;
    const sign = this.#ny > 0 ? 1 : -1;
    const size = 1 / Math.sqrt(sx * sx + sz * sz + 1);
    this.#nx = -sx * size * sign;
    this.#ny = size * sign;
    this.#nz = -sz * size * sign;
  }

  /** What one triangle leaves of a shadow ray's light; the colours are kept in the fields. */
  #passTriangle(triangle: number): boolean {
    const { tree, substances, firstLamp } = this.#world;
    // Lamps cast no shadows: their bodies would hide the light that they send.
    if (tree.object[triangle] >= firstLamp) return true;
    const substance = substances[tree.material[triangle]];
    if (substance.kind === KIND.luminous) return true;
    const at = triangle * 9;
    const { triangles } = tree;
    const gx = triangles[at + 4] * triangles[at + 8] - triangles[at + 5] * triangles[at + 7];
    const gy = triangles[at + 5] * triangles[at + 6] - triangles[at + 3] * triangles[at + 8];
    const gz = triangles[at + 3] * triangles[at + 7] - triangles[at + 4] * triangles[at + 6];
    const cosine = Math.abs(gx * this.#rayX + gy * this.#rayY + gz * this.#rayZ) / Math.sqrt(gx * gx + gy * gy + gz * gz);
    if (substance.kind === KIND.pane) {
      const share = 1 - fresnelPane(cosine, substance.ior);
      this.#leftR *= share * substance.color[0];
      this.#leftG *= share * substance.color[1];
      this.#leftB *= share * substance.color[2];
    } else {
      const share = 1 - fresnelDielectric(cosine, substance.ior);
      this.#leftR *= share;
      this.#leftG *= share;
      this.#leftB *= share;
    }
    return this.#leftR + this.#leftG + this.#leftB > 1e-4;
  }

  /** Leaves in the fields what reaches a place along a direction. */
  #shadowRay(x: number, y: number, z: number, dx: number, dy: number, dz: number, far: number): void {
    this.#rayX = dx;
    this.#rayY = dy;
    this.#rayZ = dz;
    this.#leftR = this.#leftG = this.#leftB = 1;
    if (!this.#rays.passage(x, y, z, dx, dy, dz, 0, far, this.#pass)) this.#leftR = this.#leftG = this.#leftB = 0;
  }

  /**
   * Light of the sun and of one lamp at a surface. `matt` is its colour or null; `glossy` its substance, or null.
   * (vx, vy, vz) points back along the ray; (r, g, b) is what the path carries.
   */
  #lit(path: number, glossyPath: number, matt: Float64Array | null, mattShare: number, through: number, glossy: Substance | null, vx: number, vy: number, vz: number, r: number, g: number, b: number, isFirst: boolean, p: Place): void {
    const { sun } = this.#world;
    if (sun) {
      const u1 = this.#sampler.next();
      const u2 = this.#sampler.y;
      const [ax, ay, az] = sun.direction;
      const ray = this.#lamp;
      coneDirection(ax, ay, az, 1 - u1 * sun.spread, u2, ray);
      this.#from(path, glossyPath, 0, matt, mattShare, through, glossy, vx, vy, vz, ray.x, ray.y, ray.z, FAR, sun.light[0] * r, sun.light[1] * g, sun.light[2] * b, isFirst, p);
    }
    const lamp = this.#towardsLamp(p.x, p.y, p.z);
    if (lamp === null) return;
    const ray = this.#lamp;
    const { factor } = ray;
    const glossyHere = glossy && (glossy.width >= NARROW || !lamp.hasSurface) ? glossy : null;
    this.#from(path, glossyPath, lamp.group, matt, mattShare, through, glossyHere, vx, vy, vz, ray.x, ray.y, ray.z, ray.distance * (1 - 1e-4), lamp.light[0] * factor * r, lamp.light[1] * factor * g, lamp.light[2] * factor * b, isFirst, p);
  }

  /** Picks a lamp by what it may send here and leaves a ray to it in `#lamp`, with the chance of the pick in its factor. */
  #towardsLamp(x: number, y: number, z: number): Lamp | null {
    const { lamps } = this.#world;
    if (lamps.length === 0) return null;
    const sampler = this.#sampler;
    const pick = sampler.next();
    const spare = sampler.y;
    let total = 0;
    const weights = this.#weights;
    for (let i = 0; i < lamps.length; i++) {
      weights[i] = lamps[i].estimate(x, y, z);
      total += weights[i];
    }
    if (!(total > 0)) return null;
    let chosen = 0;
    let rest = pick * total;
    while (chosen < lamps.length - 1 && rest >= weights[chosen]) rest -= weights[chosen++];
    if (weights[chosen] <= 0) return null;
    const w = sampler.next();
    lamps[chosen].sample(x, y, z, w, (sampler.y + spare) % 1, this.#lamp);
    if (this.#lamp.factor <= 0) return null;
    this.#lamp.factor *= total / weights[chosen];
    return lamps[chosen];
  }

  /** One source's light from a direction: shadow ray, then the lobes. (er, eg, eb) is lux on a facing surface. */
  #from(path: number, glossyPath: number, group: number, matt: Float64Array | null, mattShare: number, through: number, glossy: Substance | null, vx: number, vy: number, vz: number, x: number, y: number, z: number, far: number, er: number, eg: number, eb: number, isFirst: boolean, p: Place): void {
    const cosine = p.nx * x + p.ny * y + p.nz * z;
    const outside = p.gx * x + p.gy * y + p.gz * z;
    const isLit = cosine > 0 && outside > 0;
    const isBehind = through > 0 && outside < 0 && cosine < 0;
    if (!isLit && !isBehind) return;
    const side = isLit ? p.lift : -p.lift;
    this.#shadowRay(p.x + p.gx * side, p.y + p.gy * side, p.z + p.gz * side, x, y, z, far);
    const left = this.#leftR + this.#leftG + this.#leftB;
    if (left === 0 && !isFirst) return;
    const { sums } = this;
    if (matt) {
      const share = ((isLit ? 1 - through : through) * mattShare * Math.abs(cosine)) / Math.PI;
      const mr = matt[0] * share * er;
      const mg = matt[1] * share * eg;
      const mb = matt[2] * share * eb;
      this.#add(path, group, mr * this.#leftR, mg * this.#leftG, mb * this.#leftB, !isFirst);
      if (isFirst) {
        const scale = this.#settings.exposureScale;
        const at = this.#plan.rest.shadow.at;
        sums[at] += mr * (1 - this.#leftR) * scale;
        sums[at + 1] += mg * (1 - this.#leftG) * scale;
        sums[at + 2] += mb * (1 - this.#leftB) * scale;
      }
    }
    if (glossy && isLit && left > 0 && glossy.width > 0) {
      const hx = x + vx;
      const hy = y + vy;
      const hz = z + vz;
      const size = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
      const seen = Math.max(1e-4, p.nx * vx + p.ny * vy + p.nz * vz);
      const half = (p.nx * hx + p.ny * hy + p.nz * hz) * size;
      const tilt = Math.min(1, Math.max(0, (x * hx + y * hy + z * hz) * size));
      const f = (distribution(half, glossy.width) * maskingBoth(seen, cosine, glossy.width)) / (4 * seen);
      const [mr, mg, mb] = this.#mirrored(glossy, tilt);
      this.#add(glossyPath, group, f * mr * er * this.#leftR, f * mg * eg * this.#leftG, f * mb * eb * this.#leftB, true);
    }
  }

  /** The camera ray and everything that hangs on its first surface. */
  #first(): void {
    const { sums } = this;
    const { rest } = this.#plan;
    const { ox, oy, oz, dx, dy, dz, forward, pixelAngle } = this.#camera;
    if (!this.#rays.nearest(ox, oy, oz, dx, dy, dz, 1e-4, FAR)) {
      this.#addSky(PATH.background, dx, dy, dz, 1, 1, 1, false);
      sums[rest['ambient-occlusion'].at] += 1;
      return;
    }
    const t = this.#rays.t;
    const triangle = this.#rays.triangle;
    const { u, v } = this.#rays;
    this.#meet(ox, oy, oz, dx, dy, dz);
    const material = this.#hitMaterial;
    const object = this.#hitObject;
    const substance = this.#world.substances[material];
    this.#ripple(substance);
    const p = this.#place(t);
    this.material = material;
    this.object = object;
    sums[rest.alpha.at] += 1;
    sums[rest.distance.at] += t;
    const along = dx * forward[0] + dy * forward[1] + dz * forward[2];
    sums[rest.depth.at] += t * along;
    this.#firstWay = t;
    this.#along = along;
    this.#sees(0);
    const n = rest.normals.at;
    sums[n] += p.nx;
    sums[n + 1] += p.ny;
    sums[n + 2] += p.nz;
    const q = rest.position.at;
    sums[q] += p.x;
    sums[q + 1] += p.y;
    sums[q + 2] += p.z;
    if (this.#isOnEdge(triangle, u, v, t * pixelAngle)) sums[rest.wireframe.at] += 1;
    if (this.#settings.wantsAo) sums[rest['ambient-occlusion'].at] += this.#openness(p);

    if (object >= this.#world.firstLamp) {
      this.#addLamp(PATH.self, object, 1, 1, 1, false);
      return;
    }
    const f = rest['diffuse-filter'].at;
    switch (substance.kind) {
      case KIND.luminous:
        this.#add(PATH.self, substance.group, substance.color[0], substance.color[1], substance.color[2], false);
        return;
      case KIND.matt:
      case KIND.leaf: {
        const color = this.#paint(substance, p);
        const [r, g, b] = color;
        sums[f] += r;
        sums[f + 1] += g;
        sums[f + 2] += b;
        this.#lit(PATH.direct, PATH.specular, color, 1, substance.through, null, -dx, -dy, -dz, 1, 1, 1, true, p);
        this.#scatter(PATH.gi, r, g, b, substance.through, p);
        return;
      }
      case KIND.coated: {
        const color = this.#paint(substance, p);
        const [r, g, b] = color;
        const coat = fresnelDielectric(facing(p, dx, dy, dz), substance.ior);
        sums[f] += r;
        sums[f + 1] += g;
        sums[f + 2] += b;
        this.#filter('reflection-filter', coat, coat, coat);
        this.#lit(PATH.direct, PATH.specular, color, 1 - coat, 0, substance, -dx, -dy, -dz, 1, 1, 1, true, p);
        const matt = 1 - coat;
        this.#scatter(PATH.gi, r * matt, g * matt, b * matt, 0, p);
        const chance = Math.min(1, 0.06 + 3 * coat);
        if (this.#sampler.next() < chance) this.#glint(substance, dx, dy, dz, 1 / chance, p);
        return;
      }
      case KIND.metal: {
        const [mr, mg, mb] = this.#mirrored(substance, facing(p, dx, dy, dz));
        this.#filter('reflection-filter', mr, mg, mb);
        if (substance.width > 0) this.#lit(PATH.direct, PATH.specular, null, 0, 0, substance, -dx, -dy, -dz, 1, 1, 1, true, p);
        this.#way = 0;
        this.#glint(substance, dx, dy, dz, 1, p);
        if (substance.width < NARROW) this.#sees(this.#way);
        return;
      }
      case KIND.pane: {
        const cosine = facing(p, dx, dy, dz);
        const mirrored = fresnelPane(cosine, substance.ior);
        const [tr, tg, tb] = substance.color;
        this.#filter('reflection-filter', mirrored, mirrored, mirrored);
        this.#filter('refraction-filter', (1 - mirrored) * tr, (1 - mirrored) * tg, (1 - mirrored) * tb);
        this.#mirror(PATH.reflection, mirrored, dx, dy, dz, p, NOTHING);
        const passes = 1 - mirrored;
        this.#walk(PATH.refraction, p.x - p.gx * p.lift, p.y - p.gy * p.lift, p.z - p.gz * p.lift, dx, dy, dz, passes * tr, passes * tg, passes * tb, true, NOTHING);
        this.materialThrough = this.#seen;
        if (mirrored < 0.5) this.#sees(this.#way);
        return;
      }
      case KIND.body:
        this.#body(substance, material, dx, dy, dz, p);
        return;
    }
  }

  /** Mirror and refraction at the first surface of solid glass or water. */
  #body(substance: Substance, material: number, dx: number, dy: number, dz: number, p: Place): void {
    const isEntering = this.#isFront;
    const eta = isEntering ? substance.ior : 1 / substance.ior;
    const cosine = facing(p, dx, dy, dz);
    const mirrored = fresnelDielectric(cosine, eta);
    this.#filter('reflection-filter', mirrored, mirrored, mirrored);
    this.#filter('refraction-filter', 1 - mirrored, 1 - mirrored, 1 - mirrored);
    this.#mirror(PATH.reflection, mirrored, dx, dy, dz, p, isEntering ? NOTHING : material);
    if (mirrored >= 1) return;
    const inner = Math.sqrt(Math.max(0, 1 - (1 - cosine * cosine) / (eta * eta)));
    const k = cosine / eta - inner;
    const passes = 1 - mirrored;
    this.#walk(PATH.refraction, p.x - p.gx * p.lift, p.y - p.gy * p.lift, p.z - p.gz * p.lift, dx / eta + p.nx * k, dy / eta + p.ny * k, dz / eta + p.nz * k, passes, passes, passes, true, isEntering ? material : NOTHING);
    this.materialThrough = this.#seen;
    if (mirrored < 0.5) this.#sees(this.#way);
  }

  /** What the camera sees lies so much farther than the first surface: of what passes and what is mirrored, that of which there is more. */
  #sees(beyond: number): void {
    this.#sight = (this.#firstWay + beyond) * this.#along;
  }

  #mirror(path: number, share: number, dx: number, dy: number, dz: number, p: Place, medium: number): void {
    const chance = Math.min(1, 0.1 + 3 * share);
    if (this.#sampler.next() >= chance) return;
    const twice = 2 * (p.nx * dx + p.ny * dy + p.nz * dz);
    const rx = dx - p.nx * twice;
    const ry = dy - p.ny * twice;
    const rz = dz - p.nz * twice;
    // Waves can throw the ray below the surface; it is then lost, as a wave's back would catch it.
    if (rx * p.gx + ry * p.gy + rz * p.gz <= 0) return;
    const w = share / chance;
    this.#walk(path, p.x + p.gx * p.lift, p.y + p.gy * p.lift, p.z + p.gz * p.lift, rx, ry, rz, w, w, w, true, medium);
    this.materialMirrored = this.#seen;
    if (share >= 0.5) this.#sees(this.#way);
  }

  /** The glossy path from a first surface. */
  #glint(substance: Substance, dx: number, dy: number, dz: number, gain: number, p: Place): void {
    const weight = this.#glossyDirection(substance, dx, dy, dz, p);
    if (weight === 0) return;
    const [r, g, b] = this.#mirrored(substance, this.#tilt);
    const w = weight * gain;
    const isNarrow = substance.width < NARROW;
    this.#walk(PATH.reflection, p.x + p.gx * p.lift, p.y + p.gy * p.lift, p.z + p.gz * p.lift, this.#out.x, this.#out.y, this.#out.z, r * w, g * w, b * w, isNarrow, NOTHING);
    if (isNarrow) this.materialMirrored = this.#seen;
  }

  /** Share that a metal or a clear coat reflects at an angle, by channel. Overwritten by the next call. */
  #mirrored(substance: Substance, cosine: number): Float64Array {
    const shares = this.#shares;
    if (substance.kind === KIND.metal) for (let c = 0; c < 3; c++) shares[c] = fresnelSchlick(cosine, substance.color[c]);
    else shares.fill(fresnelDielectric(cosine, substance.ior));
    return shares;
  }

  /** The last direction drawn. */
  readonly #out = { x: 0, y: 0, z: 0 };
  /** Cosine between the last glossy direction and its facet. */
  #tilt = 1;

  /** Draws a direction off the facets, of which a mirror has one; returns its weight without the Fresnel term, 0 if it goes below the surface. */
  #glossyDirection(substance: Substance, dx: number, dy: number, dz: number, p: Place): number {
    if (substance.width === 0) {
      const along = p.nx * dx + p.ny * dy + p.nz * dz;
      this.#out.x = dx - p.nx * 2 * along;
      this.#out.y = dy - p.ny * 2 * along;
      this.#out.z = dz - p.nz * 2 * along;
      this.#tilt = Math.min(1, Math.max(0, -along));
      return 1;
    }
    const sign = p.nz >= 0 ? 1 : -1;
    const a = -1 / (sign + p.nz);
    const b = p.nx * p.ny * a;
    const ax = 1 + sign * p.nx * p.nx * a;
    const ay = sign * b;
    const az = -sign * p.nx;
    const bx = b;
    const by = sign + p.ny * p.ny * a;
    const bz = -p.ny;
    const vx = -(dx * ax + dy * ay + dz * az);
    const vy = -(dx * bx + dy * by + dz * bz);
    const vz = Math.max(1e-4, -(dx * p.nx + dy * p.ny + dz * p.nz));
    const facet = this.#facet;
    const u = this.#sampler.next();
    sampleVisible(vx, vy, vz, substance.width, u, this.#sampler.y, facet);
    const tilt = vx * facet[0] + vy * facet[1] + vz * facet[2];
    const lx = 2 * tilt * facet[0] - vx;
    const ly = 2 * tilt * facet[1] - vy;
    const lz = 2 * tilt * facet[2] - vz;
    if (lz <= 1e-5 || tilt <= 0) return 0;
    this.#out.x = lx * ax + ly * bx + lz * p.nx;
    this.#out.y = lx * ay + ly * by + lz * p.ny;
    this.#out.z = lx * az + ly * bz + lz * p.nz;
    if (this.#out.x * p.gx + this.#out.y * p.gy + this.#out.z * p.gz <= 0) return 0;
    this.#tilt = Math.min(1, tilt);
    return maskingBoth(vz, lz, substance.width) / maskingOne(vz, substance.width);
  }

  /** A matt surface's own path onwards, in a direction weighted by the cosine. */
  #scatter(path: number, r: number, g: number, b: number, through: number, p: Place): void {
    if (r + g + b <= 0) return;
    let side = 1;
    if (through > 0 && this.#sampler.next() < through) side = -1;
    this.#cosineDirection(p, side);
    const lift = p.lift * side;
    if ((this.#out.x * p.gx + this.#out.y * p.gy + this.#out.z * p.gz) * side <= 0) return;
    this.#walk(path, p.x + p.gx * lift, p.y + p.gy * lift, p.z + p.gz * lift, this.#out.x, this.#out.y, this.#out.z, r, g, b, false, NOTHING);
  }

  #cosineDirection(p: Place, side: number): void {
    const u = this.#sampler.next();
    coneDirection(p.nx, p.ny, p.nz, Math.sqrt(Math.max(0, 1 - u)) * side, this.#sampler.y, this.#out);
  }

  #filter(name: 'reflection-filter' | 'refraction-filter', r: number, g: number, b: number): void {
    const { at } = this.#plan.rest[name];
    this.sums[at] += r;
    this.sums[at + 1] += g;
    this.sums[at + 2] += b;
  }

  #addLamp(path: number, object: number, r: number, g: number, b: number, isIndirect: boolean): void {
    const { lamps, lampOfObject, firstLamp } = this.#world;
    const lamp = lamps[lampOfObject[object - firstLamp]];
    // Rectangles shine from their front only; spheres are only met from outside.
    if (this.#isFront) this.#add(path, lamp.group, r * lamp.light[0], g * lamp.light[1], b * lamp.light[2], isIndirect);
  }

  /** Follows a path to its end. `sees` tells whether lamps that it meets count: shadow rays look for them otherwise. */
  #walk(path: number, sx: number, sy: number, sz: number, wx: number, wy: number, wz: number, tr: number, tg: number, tb: number, seesLamps: boolean, startMedium: number): void {
    let [ox, oy, oz, dx, dy, dz, r, g, b] = [sx, sy, sz, wx, wy, wz, tr, tg, tb];
    let sees = seesLamps;
    let medium = startMedium;
    let isClear = true;
    this.#seen = NOTHING;
    this.#way = SKY_WAY;
    let way = 0;
    const { substances, firstLamp } = this.#world;
    const sampler = this.#sampler;
    for (let bounce = 0; bounce < MOST_BOUNCES; bounce++) {
      if (!this.#rays.nearest(ox, oy, oz, dx, dy, dz, 0, FAR)) {
        this.#addSky(path, dx, dy, dz, r, g, b, true);
        return;
      }
      const t = this.#rays.t;
      this.#meet(ox, oy, oz, dx, dy, dz);
      const material = this.#hitMaterial;
      const substance = substances[material];
      if (medium >= 0) {
        const { color } = substances[medium];
        r *= color[0] ** t;
        g *= color[1] ** t;
        b *= color[2] ** t;
      }
      const passes = substance.kind === KIND.pane || substance.kind === KIND.body;
      way += t;
      if (isClear && !passes) {
        this.#seen = material;
        this.#way = way;
        isClear = false;
      }
      if (this.#hitObject >= firstLamp) {
        if (sees) this.#addLamp(path, this.#hitObject, r, g, b, true);
        return;
      }
      if (substance.kind === KIND.luminous) {
        this.#add(path, substance.group, r * substance.color[0], g * substance.color[1], b * substance.color[2], true);
        return;
      }
      this.#ripple(substance);
      if (passes) {
        const cosine = Math.min(1, Math.max(0, -(this.#nx * dx + this.#ny * dy + this.#nz * dz)));
        const eta = substance.kind === KIND.pane || this.#isFront ? substance.ior : 1 / substance.ior;
        const mirrored = substance.kind === KIND.pane ? fresnelPane(cosine, eta) : fresnelDielectric(cosine, eta);
        const lift = this.#lift(t);
        if (sampler.next() < mirrored) {
          const twice = 2 * (this.#nx * dx + this.#ny * dy + this.#nz * dz);
          dx -= this.#nx * twice;
          dy -= this.#ny * twice;
          dz -= this.#nz * twice;
          if (dx * this.#gx + dy * this.#gy + dz * this.#gz <= 0) return;
          ox = this.#px + this.#gx * lift;
          oy = this.#py + this.#gy * lift;
          oz = this.#pz + this.#gz * lift;
          if (isClear) this.#way = way;
          isClear = false;
          continue;
        }
        if (substance.kind === KIND.pane) {
          r *= substance.color[0];
          g *= substance.color[1];
          b *= substance.color[2];
        } else {
          const inner = Math.sqrt(Math.max(0, 1 - (1 - cosine * cosine) / (eta * eta)));
          const k = cosine / eta - inner;
          dx = dx / eta + this.#nx * k;
          dy = dy / eta + this.#ny * k;
          dz = dz / eta + this.#nz * k;
          medium = this.#isFront ? material : NOTHING;
        }
        ox = this.#px - this.#gx * lift;
        oy = this.#py - this.#gy * lift;
        oz = this.#pz - this.#gz * lift;
        continue;
      }
      const p = this.#place(t);
      const hasMatt = substance.kind !== KIND.metal;
      const hasGloss = substance.kind === KIND.metal || substance.kind === KIND.coated;
      let coat = 0;
      if (substance.kind === KIND.coated) coat = fresnelDielectric(facing(p, dx, dy, dz), substance.ior);
      const color = hasMatt ? this.#paint(substance, p) : null;
      const [cr, cg, cb] = color ?? [0, 0, 0];
      if (substance.kind !== KIND.metal || substance.width > 0) {
        this.#lit(path, path, color, 1 - coat, substance.through, hasGloss ? substance : null, -dx, -dy, -dz, r, g, b, false, p);
      }
      // Onwards by one of the lobes.
      const glossChance = substance.kind === KIND.metal ? 1 : coat === 0 ? 0 : Math.min(0.9, 0.05 + coat);
      let side = 1;
      if (hasGloss && sampler.next() < glossChance) {
        const weight = this.#glossyDirection(substance, dx, dy, dz, p) / glossChance;
        if (weight === 0) return;
        const [mr, mg, mb] = this.#mirrored(substance, this.#tilt);
        r *= weight * mr;
        g *= weight * mg;
        b *= weight * mb;
        dx = this.#out.x;
        dy = this.#out.y;
        dz = this.#out.z;
        sees = sees && substance.width < NARROW;
      } else {
        const matt = (1 - coat) / (1 - glossChance);
        r *= cr * matt;
        g *= cg * matt;
        b *= cb * matt;
        if (substance.through > 0 && sampler.next() < substance.through) side = -1;
        this.#cosineDirection(p, side);
        if ((this.#out.x * p.gx + this.#out.y * p.gy + this.#out.z * p.gz) * side <= 0) return;
        dx = this.#out.x;
        dy = this.#out.y;
        dz = this.#out.z;
        sees = false;
      }
      const lift = p.lift * side;
      ox = p.x + p.gx * lift;
      oy = p.y + p.gy * lift;
      oz = p.z + p.gz * lift;
      // Dim paths end by chance; those that go on carry the others' light.
      if (bounce >= SURE_BOUNCES - 1) {
        const stay = Math.min(0.95, Math.max(r, g, b));
        if (!(sampler.next() < stay)) return;
        r /= stay;
        g /= stay;
        b /= stay;
      }
    }
  }

  /** How far rays start off a surface, so that they do not meet it again. */
  #lift(t: number): number {
    return 1e-5 * (4 + t + Math.abs(this.#px) + Math.abs(this.#py) + Math.abs(this.#pz));
  }

  /** The surface last met, kept while other rays are cast. */
  #place(t: number): Place {
    return { x: this.#px, y: this.#py, z: this.#pz, nx: this.#nx, ny: this.#ny, nz: this.#nz, gx: this.#gx, gy: this.#gy, gz: this.#gz, lift: this.#lift(t) };
  }

  #paint(substance: Substance, p: Place): Float64Array {
    const color = this.#color;
    substance.painter?.(p.x, p.y, p.z, p.gx, p.gy, p.gz, color);
    return color;
  }

  #openness(p: Place): number {
    this.#cosineDirection(p, 1);
    const [x, y, z] = [this.#out.x, this.#out.y, this.#out.z];
    if (x * p.gx + y * p.gy + z * p.gz <= 0) return 0;
    this.#shadowRay(p.x + p.gx * p.lift, p.y + p.gy * p.lift, p.z + p.gz * p.lift, x, y, z, this.#settings.aoMetres);
    return this.#leftR + this.#leftG + this.#leftB > 0 ? 1 : 0;
  }

  /** Whether a hit lies within a pixel's width of one of the model's edges. */
  #isOnEdge(triangle: number, u: number, v: number, pixel: number): boolean {
    const { triangles, edges } = this.#world.tree;
    const mask = edges[triangle];
    if (mask === 0) return false;
    const at = triangle * 9;
    const [ax, ay, az, bx, by, bz] = [triangles[at + 3], triangles[at + 4], triangles[at + 5], triangles[at + 6], triangles[at + 7], triangles[at + 8]];
    const twiceArea = Math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx);
    const width = pixel * 0.75;
    return (
      ((mask & 1) !== 0 && ((1 - u - v) * twiceArea) / Math.hypot(bx - ax, by - ay, bz - az) < width) ||
      ((mask & 2) !== 0 && (u * twiceArea) / Math.hypot(bx, by, bz) < width) ||
      ((mask & 4) !== 0 && (v * twiceArea) / Math.hypot(ax, ay, az) < width)
    );
  }

  /** One sample of the fog's own light in front of black surfaces. Light reaches the fog unweakened, as in Koschmieder's airlight. */
  #fog(): void {
    const { scene, sun } = this.#world;
    const { fog } = scene;
    if (!fog) return;
    const { sums } = this;
    const { rest } = this.#plan;
    const sampler = this.#sampler;
    const { ox, oy, oz, dx, dy, dz, forward } = this.#camera;
    const hit = this.#rays.nearest(ox, oy, oz, dx, dy, dz, 1e-4, FAR);
    const end = hit ? this.#rays.t : END_OF_FOG;
    if (hit) sums[rest.depth.at] += end * (dx * forward[0] + dy * forward[1] + dz * forward[2]);
    const opaque = -Math.expm1(-fogDepth(fog, oy, dy, end));
    sums[rest.alpha.at] += opaque;
    if (opaque <= 0) return;
    const t = Math.min(end, fogReach(fog, oy, dy, -Math.log1p(-sampler.next() * opaque)));
    const [x, y, z] = [ox + dx * t, oy + dy * t, oz + dz * t];
    const [r, g, b] = fog.color.map((c) => c * opaque);
    const towards = (ax: number, ay: number, az: number) => phaseHenyeyGreenstein(dx * ax + dy * ay + dz * az, fog.forwardness);
    if (sun) {
      const [ax, ay, az] = sun.direction;
      this.#shadowRay(x, y, z, ax, ay, az, FAR);
      const phase = towards(ax, ay, az);
      this.#add(PATH.atmosphere, 0, r * sun.light[0] * phase * this.#leftR, g * sun.light[1] * phase * this.#leftG, b * sun.light[2] * phase * this.#leftB, false);
    }
    const lamp = this.#towardsLamp(x, y, z);
    if (lamp !== null) {
      const ray = this.#lamp;
      this.#shadowRay(x, y, z, ray.x, ray.y, ray.z, ray.distance * (1 - 1e-4));
      const phase = towards(ray.x, ray.y, ray.z) * ray.factor;
      this.#add(PATH.atmosphere, lamp.group, r * lamp.light[0] * phase * this.#leftR, g * lamp.light[1] * phase * this.#leftG, b * lamp.light[2] * phase * this.#leftB, true);
    }
    if (this.#world.hasSky) {
      // Any direction, and the phase function as its weight.
      const up = 1 - 2 * sampler.next();
      const angle = 2 * Math.PI * sampler.y;
      const level = Math.sqrt(Math.max(0, 1 - up * up));
      const [ax, ay, az] = [level * Math.cos(angle), up, level * Math.sin(angle)];
      this.#shadowRay(x, y, z, ax, ay, az, FAR);
      if (this.#leftR + this.#leftG + this.#leftB > 0) {
        const phase = towards(ax, ay, az) * 4 * Math.PI;
        this.#addSky(PATH.atmosphere, ax, ay, az, r * phase * this.#leftR, g * phase * this.#leftG, b * phase * this.#leftB, false);
      }
    }
  }
}

/** Cosine between a ray and the shading normal that looks at its origin. */
const facing = (p: Place, dx: number, dy: number, dz: number): number => Math.min(1, Math.max(0, -(p.nx * dx + p.ny * dy + p.nz * dz)));

interface Place {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly nx: number;
  readonly ny: number;
  readonly nz: number;
  readonly gx: number;
  readonly gy: number;
  readonly gz: number;
  readonly lift: number;
}
