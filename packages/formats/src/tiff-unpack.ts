/**
 * Bounded unpackers for the parts of a TIFF: exactly as many bytes as a strip or tile holds, whatever the packed data says.
 * The package's own ones grow until memory is used up when the data is damaged.
 * @source TIFF 6.0, sections 9 (PackBits) and 13 (LZW)
 */
import { addDecoder, BaseDecoder } from 'geotiff';
import { unzlibSync } from 'fflate';

interface PartShape {
  readonly tileWidth: number;
  readonly tileHeight: number;
  readonly planarConfiguration: number;
  readonly bitsPerSample: number | ArrayLike<number>;
}

function bytesOf({ tileWidth, tileHeight, planarConfiguration, bitsPerSample }: PartShape): number {
  const bits = typeof bitsPerSample === 'number' ? [bitsPerSample] : Array.from(bitsPerSample);
  const perPixel = planarConfiguration === 2 ? bits[0] : bits.reduce((sum, value) => sum + value, 0);
  return Math.ceil((tileWidth * perPixel) / 8) * tileHeight;
}

abstract class Bounded extends BaseDecoder {
  abstract unpack(packed: Uint8Array, out: Uint8Array): void;
  override decodeBlock(buffer: ArrayBufferLike): ArrayBuffer {
    const out = new Uint8Array(bytesOf(this.parameters as unknown as PartShape));
    this.unpack(new Uint8Array(buffer), out);
    return out.buffer;
  }
}

class Lzw extends Bounded {
  unpack(packed: Uint8Array, out: Uint8Array): void {
    const CLEAR = 256;
    const END = 257;
    // For each code the code before its last byte, that byte, and its length.
    const before = new Int32Array(4097);
    const last = new Uint8Array(4097);
    const length = new Int32Array(4097);
    for (let code = 0; code < 256; code++) {
      last[code] = code;
      length[code] = 1;
    }
    let [next, width, old, at, bit] = [258, 9, -1, 0, 0];
    const write = (code: number): number => {
      let byte = 0;
      let i = code;
      for (let to = at + length[code] - 1; to >= at; to--) {
        byte = last[i];
        if (to < out.length) out[to] = byte;
        i = before[i];
      }
      at += length[code];
      return byte;
    };
    while (at < out.length && bit + width <= packed.length * 8) {
      const i = bit >> 3;
      const code = ((((packed[i] << 16) | ((packed[i + 1] ?? 0) << 8) | (packed[i + 2] ?? 0)) >> (24 - width - (bit & 7))) & ((1 << width) - 1)) >>> 0;
      bit += width;
      if (code === END) return;
      if (code === CLEAR) {
        [next, width, old] = [258, 9, -1];
        continue;
      }
      if (old < 0) {
        if (code > 255) throw new RangeError('a code without a table');
        write(code);
      } else if (code < next) {
        const first = write(code);
        before[next] = old;
        last[next] = first;
        length[next] = length[old] + 1;
      } else {
        if (code !== next) throw new RangeError('a code beyond the table');
        let first = old;
        while (length[first] > 1) first = before[first];
        before[next] = old;
        last[next] = last[first];
        length[next] = length[old] + 1;
        write(code);
      }
      if (old >= 0 && next < 4096) next++;
      old = code;
      // Codes grow one entry early, as every writer does.
      if (next + 1 >= 1 << width && width < 12) width++;
    }
  }
}

class PackBits extends Bounded {
  unpack(packed: Uint8Array, out: Uint8Array): void {
    let to = 0;
    for (let from = 0; from < packed.length && to < out.length; ) {
      const count = (packed[from++] << 24) >> 24;
      if (count === -128) continue;
      if (count < 0) out.fill(packed[from++], to, to + 1 - count);
      else {
        out.set(packed.subarray(from, Math.min(from + count + 1, from + out.length - to)), to);
        from += count + 1;
      }
      to += Math.abs(count) + 1;
    }
  }
}

class Deflate extends Bounded {
  unpack(packed: Uint8Array, out: Uint8Array): void {
    unzlibSync(packed, { out });
  }
}

/** Compressions that are read beside none and JPEG. */
export function useBoundedUnpackers(): void {
  for (const [codes, Decoder] of [[[5], Lzw], [[8, 32946], Deflate], [[32773], PackBits]] as const) addDecoder([...codes], async () => Decoder as never);
}
