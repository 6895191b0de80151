/** Reflection and refraction at smooth surfaces. @source Fresnel equations and Snell's law; Born, Wolf, Principles of Optics */

/**
 * Share of unpolarised light that a boundary reflects. `cosine` of the angle of incidence, 0…1; `eta` is the index behind
 * the boundary divided by the one before it. 1 beyond the critical angle.
 */
export function fresnelDielectric(cosine: number, eta: number): number {
  const sine2 = (1 - cosine * cosine) / (eta * eta);
  if (sine2 >= 1) return 1;
  const inner = Math.sqrt(1 - sine2);
  const parallel = (eta * cosine - inner) / (eta * cosine + inner);
  const perpendicular = (cosine - eta * inner) / (cosine + eta * inner);
  return (parallel * parallel + perpendicular * perpendicular) / 2;
}

/** Share reflected by a clear pane: both of its sides, with all reflections between them. */
export function fresnelPane(cosine: number, eta: number): number {
  const one = fresnelDielectric(cosine, eta);
  return (2 * one) / (1 + one);
}

/** Cosine of the refracted ray; 0 beyond the critical angle. */
export function refractedCosine(cosine: number, eta: number): number {
  const sine2 = (1 - cosine * cosine) / (eta * eta);
  return sine2 >= 1 ? 0 : Math.sqrt(1 - sine2);
}

/** Schlick's approximation for one channel of a metal. @source Schlick 1994 */
export const fresnelSchlick = (cosine: number, atNormal: number): number => atNormal + (1 - atNormal) * (1 - cosine) ** 5;

/** Henyey–Greenstein's phase function, 1/sr. @source Henyey, Greenstein 1941 */
export const phaseHenyeyGreenstein = (cosine: number, g: number): number => (1 - g * g) / (4 * Math.PI * (1 + g * g - 2 * g * cosine) ** 1.5);
