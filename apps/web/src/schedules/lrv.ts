import { luminanceOf, type Material, type TazzelDocument } from '@tazzel/core';

/** Light reflectance value, 0…100: only surfaces without light on them say it. @source BS 8493:2008+A1:2010: 100 · Y */
export function lrvOf({ sources }: TazzelDocument, { mean }: Material): number | null {
  if (!mean || !sources.some(({ role }) => role === 'diffuse-filter')) return null;
  const lrv = 100 * Math.min(1, luminanceOf(mean));
  // Sky, glass, water and metal have no diffuse colour; what they reflect is not measured by it.
  return lrv < 0.5 ? null : lrv;
}
