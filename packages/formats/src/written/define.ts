/** How a format that pictures are delivered in is declared: one file each, and a line in the registry. Interface, shell and engine follow from it. */
import { completeParams, type KeptValues, type ParamTable, type ParamValues, type Size } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import type { Platform } from '../bytes.ts';

/**
 * Finished pixels. `rgba8` and `rgba16` hold the picture: straight red, green, blue and alpha of each pixel, words in the machine's order. `float`
 * holds the scene light under the tone line: four planes of 32-bit numbers, colours premultiplied.
 */
export type PixelKind = 'rgba8' | 'rgba16' | 'float';

export interface FinishedPicture extends Size {
  readonly pixels: ArrayBufferLike;
  /** Alpha is 1 everywhere. */
  readonly isOpaque: boolean;
}

interface Declaration<P extends ParamTable> {
  /** Kebab-case; settings and command lines keep it. */
  readonly id: string;
  readonly label: string;
  readonly hint: string;
  /** Of file names, without the point; the first one is written. */
  readonly endings: readonly [string, ...string[]];
  readonly mimeType: string;
  readonly params: P;
  /** Which pixels it is given. */
  readonly pixels: (values: ParamValues<P>) => { readonly kind: PixelKind; readonly dither?: boolean };
  /** The file in parts. @throws FormatError `too-large` */
  readonly write: (picture: FinishedPicture, values: ParamValues<P>, platform: Pick<Platform, 'deflate' | 'codec'>, kernels: Kernels) => Promise<Uint8Array[]>;
}

export interface PictureFormat extends Omit<Declaration<ParamTable>, 'pixels' | 'write'> {
  readonly pixels: (values: KeptValues) => { readonly kind: PixelKind; readonly dither: boolean };
  readonly write: (picture: FinishedPicture, values: KeptValues, platform: Pick<Platform, 'deflate' | 'codec'>, kernels: Kernels) => Promise<Uint8Array[]>;
}

/** Values that are missing are the defaults. */
export function definePictureFormat<const P extends ParamTable>(format: Declaration<P>): PictureFormat {
  const complete = (values: KeptValues) => completeParams(format, values) as unknown as ParamValues<P>;
  return {
    ...format,
    pixels: (values) => ({ dither: false, ...format.pixels(complete(values)) }),
    write: (picture, values, platform, kernels) => format.write(picture, complete(values), platform, kernels),
  };
}
