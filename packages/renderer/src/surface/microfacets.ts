/**
 * GGX microfacets with Smith's height-correlated shadowing, in the frame where the surface's normal is (0, 0, 1).
 * @source Walter et al., EGSR 2007; Heitz, JCGT 3 (2014) and 7 (2018, sampling of visible normals)
 */

/** Roughness as artists set it to the distribution's width. */
export const widthOf = (roughness: number): number => Math.max(1e-3, roughness * roughness);

/** Density of normals with cosine `cosine` to the surface's normal. */
export function distribution(cosine: number, width: number): number {
  const w2 = width * width;
  const d = cosine * cosine * (w2 - 1) + 1;
  return w2 / (Math.PI * d * d);
}

const lambda = (cosine: number, width: number) => (Math.sqrt(1 + width * width * (1 / (cosine * cosine) - 1)) - 1) / 2;

/** Share of the facets that are seen from a direction. */
export const maskingOne = (cosine: number, width: number): number => 1 / (1 + lambda(cosine, width));

/** Share that is both seen and lit. */
export const maskingBoth = (cosineSeen: number, cosineLit: number, width: number): number => 1 / (1 + lambda(cosineSeen, width) + lambda(cosineLit, width));

/** Reflected radiance per irradiance, without the Fresnel term; both cosines above 0. */
export function reflectance(cosineSeen: number, cosineLit: number, cosineHalf: number, width: number): number {
  return (distribution(cosineHalf, width) * maskingBoth(cosineSeen, cosineLit, width)) / (4 * cosineSeen * cosineLit);
}

/** Picks a facet among those that are seen from (x, y, z), z above 0, and writes its normal into `out`. */
export function sampleVisible(x: number, y: number, z: number, width: number, u1: number, u2: number, out: Float64Array): void {
  // Stretched so that the distribution becomes a hemisphere.
  let vx = width * x;
  let vy = width * y;
  let vz = z;
  const size = Math.sqrt(vx * vx + vy * vy + vz * vz);
  vx /= size;
  vy /= size;
  vz /= size;
  const across = vx * vx + vy * vy;
  const t1x = across > 1e-12 ? -vy / Math.sqrt(across) : 1;
  const t1y = across > 1e-12 ? vx / Math.sqrt(across) : 0;
  const t2x = -vz * t1y;
  const t2y = vz * t1x;
  const t2z = vx * t1y - vy * t1x;
  const r = Math.sqrt(u1);
  const angle = 2 * Math.PI * u2;
  const a = r * Math.cos(angle);
  const s = 0.5 * (1 + vz);
  const b = (1 - s) * Math.sqrt(Math.max(0, 1 - a * a)) + s * r * Math.sin(angle);
  const c = Math.sqrt(Math.max(0, 1 - a * a - b * b));
  const hx = width * (a * t1x + b * t2x + c * vx);
  const hy = width * (a * t1y + b * t2y + c * vy);
  const hz = Math.max(1e-9, b * t2z + c * vz);
  const length = Math.sqrt(hx * hx + hy * hy + hz * hz);
  out[0] = hx / length;
  out[1] = hy / length;
  out[2] = hz / length;
}
