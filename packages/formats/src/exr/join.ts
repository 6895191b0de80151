/** Several pictures, each written as a file of its own, as the parts of one file. Nothing is packed again. */
import { EXR_MAGIC } from './header.ts';

const [SEVERAL_PARTS, LONG_NAMES] = [0x1000, 0x400];
const encoder = new TextEncoder();

function attribute(name: string, type: string, value: Uint8Array): Uint8Array {
  const size = new Uint8Array(Int32Array.of(value.length).buffer);
  return Uint8Array.from([...encoder.encode(name), 0, ...encoder.encode(type), 0, ...size, ...value]);
}

/**
 * @param files what `encodeExr` gave for one picture each: its header, its table, then head and body of each chunk
 * @returns one file in pieces, in the same form; each name must be its own
 * @source "OpenEXR File Layout" (Academy Software Foundation): multi-part files
 */
export function joinExr(files: readonly { readonly name: string; readonly parts: readonly Uint8Array[] }[]): Uint8Array[] {
  const headers: Uint8Array[] = [];
  const chunks: Uint8Array[] = [];
  const lengths: number[] = [];
  let flags = SEVERAL_PARTS;
  for (const [number, { name, parts: [header, , ...pieces] }] of files.entries()) {
    const view = new DataView(header.buffer, header.byteOffset);
    const spoken = encoder.encode(name);
    flags |= view.getUint32(4, true) & LONG_NAMES;
    if (spoken.length > 31) flags |= LONG_NAMES;
    const count = new Uint8Array(Int32Array.of(pieces.length / 2).buffer);
    headers.push(header.subarray(8, -1), attribute('name', 'string', spoken), attribute('type', 'string', encoder.encode('scanlineimage')), attribute('chunkCount', 'int', count), Uint8Array.of(0));
    for (let i = 0; i < pieces.length; i += 2) {
      const head = new Uint8Array(4 + pieces[i].length);
      head.set(new Uint8Array(Int32Array.of(number).buffer));
      head.set(pieces[i], 4);
      chunks.push(head, pieces[i + 1]);
      lengths.push(head.length + pieces[i + 1].length);
    }
  }
  const version = new Uint8Array(Uint32Array.of(EXR_MAGIC, 2 | flags).buffer);
  const table = new DataView(new ArrayBuffer(lengths.length * 8));
  let offset = version.length + headers.reduce((sum, { length }) => sum + length, 0) + 1 + table.byteLength;
  for (const [i, length] of lengths.entries()) {
    table.setBigUint64(i * 8, BigInt(offset), true);
    offset += length;
  }
  return [version, ...headers, Uint8Array.of(0), new Uint8Array(table.buffer), ...chunks];
}
