/** Formats that are decoded as a whole: one door for all of them. OpenEXR has its own, because workers share its chunks. */
import { type FileFormat, type Matrix, multiplyMatrix, type Plane, srgbDecode, srgbEncode } from '@tazzel/core';
import { type Allocate, type ByteSource, type Platform, plainMemory } from './bytes.ts';
import { decodeHdr } from './hdr.ts';
import { decodeJpeg } from './jpeg.ts';
import { decodePng } from './png/decode.ts';
import { decodeTiff } from './tiff/decode.ts';
import { decodeWebp } from './webp.ts';
import type { StoredPixels } from './icc.ts';

export type PicturePixels = Pick<StoredPixels, 'color' | 'alpha'>;

/** Which channels of which page; only TIFF files have a choice. */
export interface WantedPixels {
  readonly page: number;
  readonly color: readonly string[];
  readonly alpha: boolean;
}

/**
 * The planes of a picture, or of one of its pages. `managed`: colours of a known other space become Rec. 709; data and IDs
 * are never touched. @throws FormatError
 */
export async function decodePicture(source: ByteSource, format: Exclude<FileFormat, 'exr'>, wanted: WantedPixels, managed: boolean, platform: Platform, allocate: Allocate = plainMemory): Promise<PicturePixels> {
  const { color, alpha, space } = await decodeStored(source, format, wanted, platform, allocate);
  if (managed && color.length === 3 && space.matrix) convertDisplay(color, space.matrix, space.isLinear);
  return { color, alpha };
}

function decodeStored(source: ByteSource, format: Exclude<FileFormat, 'exr'>, wanted: WantedPixels, platform: Platform, allocate: Allocate): Promise<StoredPixels> {
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
      return decodeTiff(source, wanted.page, wanted, platform, allocate);
  }
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
