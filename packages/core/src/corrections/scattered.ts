import { choice } from '../params/choice.ts';
import type { Triple } from '../vector.ts';
import type { Scattering } from './define.ts';

/** Whether a mask says where scattered light is seen, or which light is scattered. */
export const maskIs = choice({ label: 'Its mask is', options: { seen: 'Where it is seen', lit: 'What shines' }, default: 'seen', help: 'With a mask: either nothing is changed outside of it, or only the lamps inside of it shine, and their light goes as far as it does.' });

/** How much of each channel is scattered by a share of the light and a tint (white takes all alike), and how much of it stays: nothing where the scattered light is shown alone. */
export function scatteredBy({ share, tint, shows, mask }: { readonly share: number; readonly tint: Triple; readonly shows: string; readonly mask: string }): Scattering & { readonly gain: Triple } {
  const most = Math.max(...tint, 1e-6);
  const gain = tint.map((one) => (share * Math.max(0, one)) / most) as unknown as Triple;
  const isAlone = shows === 'alone';
  return { own: isAlone ? [0, 0, 0] : (gain.map((one) => 1 - one) as unknown as Triple), others: isAlone ? 0 : 1, fromMask: mask === 'lit', gain };
}
