/** What is wrong with an element, as far as its pixels show it, with the remedy. The limits are common practice, no published source. */
import type { ContentFacts } from './content.ts';
import { type RoleId, roleSaysHowFar } from './roles.ts';

export const FINDING_KINDS = ['not-flat', 'eight-bit', 'inverted', 'normalised-depth', 'empty', 'copy'] as const;
export type FindingKind = (typeof FINDING_KINDS)[number];

/** Something that an artist should know about an element. */
export interface Finding {
  readonly kind: FindingKind;
  readonly sentence: string;
}

/** Common damage of one element. */
export function findingsOf(source: { readonly role: RoleId; readonly name: string; readonly file: { readonly format: string } }, facts: ContentFacts): Finding[] {
  const { role, name, file } = source;
  const found: Finding[] = [];
  const say = (kind: FindingKind, sentence: string) => found.push({ kind, sentence: `${name}: ${sentence}` });
  if ((role === 'material-id' || role === 'object-id') && (file.format === 'jpeg' || (facts.flat < 0.5 && facts.pixels >= 64))) {
    say('not-flat', `only ${Math.round(100 * facts.flat)} % of it is flat colour. It was saved as JPEG, or went through a tone curve, a denoiser or a filter, so its edges cannot be trusted. Save IDs as PNG or OpenEXR, without colour management.`);
  }
  if ((role === 'beauty' || role === 'denoised-beauty') && facts.bits === 8) say('eight-bit', 'it has 8 bits: light above white is lost, and exposure will show steps. Save the beauty as half-float OpenEXR.');
  if (role === 'ambient-occlusion' && facts.black > 0.25 && facts.mean < 0.35) say('inverted', 'it is black with light creases, the inverse of what is multiplied. “Invert” turns it round.');
  if ((role === 'shadow' || role === 'raw-shadow') && facts.white > 0.25 && facts.mean > 0.65) say('inverted', 'it is white where no shadow is, the inverse of a shadow element. “Invert” turns it round.');
  if (roleSaysHowFar(role) && facts.pixels >= 64) {
    const range = facts.most - facts.least;
    if (range < 1e-4 || facts.black > 0.995 || facts.white > 0.995) say('empty', `it is all ${facts.mean > 0.5 ? 'white' : 'black'} in the usual range: near and far were set wrong when rendering. Render it again with a range that spans the scene, or without one.`);
    else if (facts.most <= 1.0001) say('normalised-depth', 'its values lie between 0 and 1, so near and far are not known. Enter them in metres to use it for depth.');
  }
  return found;
}
