/** How much light air takes away and sends itself, along rays, in closed form. Lengths in metres. */

/**
 * Extinction per metre at which things are just lost at a distance.
 * @source Koschmieder 1924, with a contrast threshold of 2 %: ln 50 / visibility
 */
export const extinctionOf = (visibilityMetres: number): number => Math.log(50) / visibilityMetres;

/** Kinds of weather by how far one sees: each reaches up to its number of metres. @source international visibility code, after McCartney, Optics of the Atmosphere (1976) */
export const WEATHERS = [
  { label: 'Dense fog', metres: 50 },
  { label: 'Thick fog', metres: 200 },
  { label: 'Moderate fog', metres: 500 },
  { label: 'Light fog', metres: 1000 },
  { label: 'Thin fog', metres: 2000 },
  { label: 'Haze', metres: 4000 },
  { label: 'Light haze', metres: 10_000 },
  { label: 'Clear', metres: 20_000 },
  { label: 'Very clear', metres: 50_000 },
  { label: 'Exceptionally clear', metres: 277_000 },
] as const;

export const weatherOf = (visibilityMetres: number): string => (WEATHERS.find(({ metres }) => visibilityMetres <= metres) ?? WEATHERS[WEATHERS.length - 1]).label;

/**
 * Optical depth over `length` metres from height `y`, climbing `dy` for each metre, through air that is e times thinner `fallOff` metres higher up
 * (null: even everywhere). `extinction` is that at height 0.
 * @source Beer–Lambert; exponential height fog
 */
export function opticalDepth(extinction: number, fallOff: number | null, y: number, dy: number, length: number): number {
  if (fallOff === null) return extinction * length;
  // Counted from the lower end, so that no number grows beyond what the other shrinks to.
  const k = Math.abs(dy * length) / fallOff;
  return extinction * Math.exp(-Math.min(y, y + dy * length) / fallOff) * length * (k < 1e-9 ? 1 : -Math.expm1(-k) / k);
}

/**
 * How much more than evenly light is sent on at an angle: the phase function times 4π, 1 everywhere for a forwardness of 0.
 * @source Henyey and Greenstein 1941
 */
export const forwardScatter = (forwardness: number, cosine: number): number => (1 - forwardness ** 2) / (1 + forwardness ** 2 - 2 * forwardness * cosine) ** 1.5;
