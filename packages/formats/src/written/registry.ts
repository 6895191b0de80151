import type { FlatFormat, PictureFormat } from './define.ts';
import { exr } from './exr.ts';
import { hdr } from './hdr.ts';
import { jpeg } from './jpeg.ts';
import { openraster } from './openraster.ts';
import { png } from './png.ts';
import { tiff } from './tiff.ts';
import { webp } from './webp.ts';

/** Every format that pictures are delivered in, in the order of menus. */
export const pictureFormats: readonly PictureFormat[] = [png, tiff, jpeg, webp, exr, hdr, openraster];

export const pictureFormatById = (id: string): PictureFormat | null => pictureFormats.find((format) => format.id === id) ?? null;

/** One of those that hold a single picture. */
export function flatFormatById(id: string): FlatFormat | null {
  const format = pictureFormatById(id);
  return format?.kind === 'flat' ? format : null;
}

/** By the ending of a file name; null if none has it. */
export const pictureFormatOf = (fileName: string): PictureFormat | null => pictureFormats.find(({ endings }) => endings.some((ending) => fileName.toLowerCase().endsWith(`.${ending}`))) ?? null;
