import { choice, flag, number, outputSpaces, type Size, text } from '@tazzel/core';
import { FormatError } from '../errors.ts';

/** Bytes show bands in skies without it. */
export const dither = flag({ label: 'Dither, against banding in skies', help: 'An ordered pattern below one code. Without it values are rounded plainly.', default: true, when: { bits: '8' } });

export const dpi = number({ label: 'Resolution', unit: 'dpi', min: 0, max: 4800, step: 1, digits: 0, usual: [0, 600], default: 0, help: 'Dots per inch, for programs that place the picture on paper. It changes no pixel; 0 says nothing.' });

const spaceHelp = 'The space that the numbers are of; its profile lies in the file. Every one of them holds all colours of the finished picture, so none looks different where profiles are followed.';
const spaces = { srgb: outputSpaces.srgb.label, 'display-p3': outputSpaces['display-p3'].label, oprgb: `${outputSpaces.oprgb.label}, for print` } as const;
export const space = choice({ label: 'Colours', help: spaceHelp, options: spaces, default: 'srgb' });
/** Where there are 16 bits. */
export const spaceOrLight = choice({ label: 'Colours', help: `${spaceHelp} Linear light wants 16 bits: with 8 its shadows band.`, options: { ...spaces, linear: outputSpaces.linear.label }, default: 'srgb' });

export const title = text({ label: 'Title', help: 'Written into the file; nothing is, where it is empty.' });
export const author = text({ label: 'Author', help: 'Written into the file; nothing is, where it is empty.' });

/** @throws FormatError `too-large` */
export function mustFit({ width, height }: Size, side: number, format: string): void {
  if (width > side || height > side) throw new FormatError('too-large', `${width} × ${height} pixels`, `a ${format} has at most ${side} on each side. Deliver it smaller, or as TIFF.`);
}
