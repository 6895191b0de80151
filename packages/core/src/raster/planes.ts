import type { Size } from './region.ts';

/**
 * How the numbers of a plane are stored. Bytes and 16-bit integers stand for 0…1, the others for themselves.
 * Planes may lie in shared memory; nothing here writes to them.
 */
export type PlaneType = 'u8' | 'u16' | 'f16' | 'f32' | 'u32';
export type PlaneData = Uint8Array | Uint16Array | Float32Array | Uint32Array;

/** One channel, row-major, without padding: `data.length === width * height`. */
export interface Plane extends Size {
  readonly type: PlaneType;
  readonly data: PlaneData;
}

export const BYTES_PER_SAMPLE: Record<PlaneType, number> = { u8: 1, u16: 2, f16: 2, f32: 4, u32: 4 };

/** A typed view of the right kind over `buffer`. */
export function planeView(type: PlaneType, buffer: ArrayBufferLike, byteOffset = 0, length?: number): PlaneData {
  switch (type) {
    case 'u8':
      return new Uint8Array(buffer, byteOffset, length);
    case 'u16':
    case 'f16':
      return new Uint16Array(buffer, byteOffset, length);
    case 'f32':
      return new Float32Array(buffer, byteOffset, length);
    case 'u32':
      return new Uint32Array(buffer, byteOffset, length);
  }
}
