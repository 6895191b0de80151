import type { Kernels } from '@tazzel/kernels';

/** What kernels unpacked. @throws RangeError if they could not */
export function fitting<T>(unpacked: T | null): T {
  if (unpacked === null) throw new RangeError('the data does not fit');
  return unpacked;
}

/** A zlib stream within a chunk. @throws RangeError if it is damaged or does not hold exactly `length` bytes */
export const inflateChunk = (packed: Uint8Array, length: number, kernels: Kernels): Uint8Array => fitting(kernels.inflate(packed, length));
