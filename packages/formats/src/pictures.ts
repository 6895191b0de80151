/** Formats that are decoded as a whole: one door for all of them. OpenEXR has its own, because workers share its chunks. */
import { type FileFormat, type Matrix, multiplyMatrix, type Plane, srgbDecode, srgbEncode } from '@tazzel/core';
import { type Allocate, type ByteSource, type Platform, plainMemory } from './bytes.ts';
import { decodeHdr } from './hdr.ts';
import { decodeJpeg, readJpegHeader } from './jpeg.ts';
import { decodePng } from './png/decode.ts';
import { readPngHeader } from './png/chunks.ts';
import { decodeTiff, readTiffPages } from './tiff.ts';
import { decodeWebp, readWebpHeader } from './webp.ts';
import type { ColorSpace } from './icc.ts';
import { SRGB } from './icc.ts';

export interface PicturePixels {
  /** One or three. */
  readonly color: readonly Plane[];
  readonly alpha: Plane | null;
}

/**
 * The planes of a picture, or of one of its pages. `managed`: colours of a known other space become Rec. 709; data and IDs
 * are never touched. @throws FormatError
 */
export async function decodePicture(source: ByteSource, format: Exclude<FileFormat, 'exr'>, page: number, managed: boolean, platform: Platform, allocate: Allocate = plainMemory): Promise<PicturePixels> {
  const pixels = await decodeStored(source, format, page, platform, allocate);
  if (!managed || pixels.color.length !== 3) return pixels;
  const space = await spaceOf(source, format, page);
  if (space.matrix) convertDisplay(pixels.color, space.matrix, space.isLinear);
  return pixels;
}

function decodeStored(source: ByteSource, format: Exclude<FileFormat, 'exr'>, page: number, platform: Platform, allocate: Allocate): Promise<PicturePixels> {
  switch (format) {
    case 'png':
      return decodePng(source, platform, allocate);
    case 'jpeg':
      return decodeJpeg(source, platform, allocate);
    case 'webp':
      return decodeWebp(source, platform, allocate);
    case 'hdr':
      return decodeHdr(source, allocate);
    default:
      return decodeTiff(source, page, allocate);
  }
}

async function spaceOf(source: ByteSource, format: Exclude<FileFormat, 'exr'>, page: number): Promise<ColorSpace> {
  if (format === 'png') return (await readPngHeader(source)).space;
  if (format === 'jpeg') return (await readJpegHeader(source)).space;
  if (format === 'webp') return (await readWebpHeader(source)).space;
  if (format === 'tiff') return (await readTiffPages(source)).pages.find(({ index }) => index === page)?.space ?? SRGB;
  return SRGB;
}

/** Three planes through a matrix in linear light, in place; colours outside of the space are cut. */
export function convertDisplay(color: readonly Plane[], matrix: Matrix, isLinear: boolean): void {
  const largest = color[0].type === 'u8' ? 255 : color[0].type === 'u16' ? 65535 : 0;
  const toLight = (value: number) => (isLinear ? value : srgbDecode(value));
  const table = largest > 0 ? Float32Array.from({ length: largest + 1 }, (_, code) => toLight(code / largest)) : null;
  const [r, g, b] = color.map(({ data }) => data);
  for (let i = 0; i < r.length; i++) {
    const light = table ? ([table[r[i]], table[g[i]], table[b[i]]] as const) : ([toLight(r[i]), toLight(g[i]), toLight(b[i])] as const);
    const out = multiplyMatrix(matrix, light);
    const store = (value: number) => {
      const kept = isLinear ? value : srgbEncode(value);
      return largest > 0 ? Math.round(Math.min(1, Math.max(0, kept)) * largest) : kept;
    };
    r[i] = store(out[0]);
    g[i] = store(out[1]);
    b[i] = store(out[2]);
  }
}
