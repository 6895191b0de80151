/** How a format that pictures are delivered in is declared: one file each, and a line in the registry. Interface, shell and engine follow from it. */
import { completeParams, type KeptValues, type OutputSpaceId, type ParamTable, type ParamValues, type Size } from '@tazzel/core';
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

/** Which pixels a format is given. Light has no space: it is linear Rec. 709. */
export interface PixelForm {
  readonly kind: PixelKind;
  readonly dither: boolean;
  readonly space: OutputSpaceId;
}

/** A layer of a file of layers, finished: a PNG as large as the whole, or a group. */
export type WrittenItem = { readonly name: string; /** Of the W3C's Compositing and Blending, as `svg:multiply`. */ readonly operator: string; readonly opacity: number; readonly visible: boolean } & (
  | { readonly kind: 'picture'; readonly png: readonly Uint8Array[] }
  | { readonly kind: 'group'; readonly isolated: boolean; readonly items: readonly WrittenItem[] }
);
/** Layers from the lowest on, and PNGs of all of them together: as large, and at most 256 pixels wide and high. */
export interface WrittenStack extends Size {
  readonly items: readonly WrittenItem[];
  readonly merged: readonly Uint8Array[];
  readonly thumbnail: readonly Uint8Array[];
}

interface Declared<P extends ParamTable> {
  /** Kebab-case; settings and command lines keep it. */
  readonly id: string;
  readonly label: string;
  readonly hint: string;
  /** Of file names, without the point; the first one is written. */
  readonly endings: readonly [string, ...string[]];
  readonly mimeType: string;
  readonly params: P;
}

interface Declaration<P extends ParamTable> extends Declared<P> {
  /** Which pixels it is given. */
  readonly pixels: (values: ParamValues<P>) => Pick<PixelForm, 'kind'> & Partial<PixelForm>;
  /** The file in parts. @throws FormatError `too-large` */
  readonly write: (picture: FinishedPicture, values: ParamValues<P>, platform: Pick<Platform, 'deflate' | 'codec'>, kernels: Kernels) => Promise<Uint8Array[]>;
  /** If it can hold several pictures: when that is wanted, the values of one that holds this, and how files of one each become one. */
  readonly several?: {
    readonly isWanted: (values: ParamValues<P>) => boolean;
    readonly valuesOf: (holds: 'light' | 'picture', values: ParamValues<P>) => KeptValues;
    readonly join: (files: readonly NamedFile[]) => Uint8Array[];
  };
}

/** A file in parts, and what it is called in a larger one. */
export interface NamedFile {
  readonly name: string;
  readonly parts: readonly Uint8Array[];
}

interface LayeredDeclaration<P extends ParamTable> extends Declared<P> {
  /** The file in parts. Its values are those of the PNGs, too. */
  readonly assemble: (stack: WrittenStack, values: ParamValues<P>) => Uint8Array[];
}

/** One picture in a file. */
export interface FlatFormat extends Declared<ParamTable> {
  readonly kind: 'flat';
  readonly pixels: (values: KeptValues) => PixelForm;
  readonly write: (picture: FinishedPicture, values: KeptValues, platform: Pick<Platform, 'deflate' | 'codec'>, kernels: Kernels) => Promise<Uint8Array[]>;
  /** Null unless these values want several pictures in it. */
  readonly several: (values: KeptValues) => Several | null;
}
export interface Several {
  readonly valuesOf: (holds: 'light' | 'picture') => KeptValues;
  readonly join: (files: readonly NamedFile[]) => Uint8Array[];
}

/** Layers in a file, each a PNG. */
export interface LayeredFormat extends Declared<ParamTable> {
  readonly kind: 'layered';
  readonly assemble: (stack: WrittenStack, values: KeptValues) => Uint8Array[];
}

export type PictureFormat = FlatFormat | LayeredFormat;

/** Values that are missing are the defaults. */
const completer = <P extends ParamTable>(format: Declared<P>) => (values: KeptValues) => completeParams(format, values) as unknown as ParamValues<P>;

export function definePictureFormat<const P extends ParamTable>(format: Declaration<P>): FlatFormat {
  const complete = completer(format);
  return {
    ...format,
    kind: 'flat',
    pixels: (values) => ({ dither: false, space: 'srgb', ...format.pixels(complete(values)) }),
    write: (picture, values, platform, kernels) => format.write(picture, complete(values), platform, kernels),
    several: (values) => {
      const [several, all] = [format.several, complete(values)];
      return several?.isWanted(all) ? { valuesOf: (holds) => several.valuesOf(holds, all), join: several.join } : null;
    },
  };
}

export function defineLayeredFormat<const P extends ParamTable>(format: LayeredDeclaration<P>): LayeredFormat {
  const complete = completer(format);
  return { ...format, kind: 'layered', assemble: (stack, values) => format.assemble(stack, complete(values)) };
}
