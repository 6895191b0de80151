import { createWriteStream, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { scratch, tool } from '../../../../tests/tools.ts';
import { byteSource, type ByteSource } from '../bytes.ts';
import { crc32 } from '../png/chunks.ts';
import { readEntry, readZip } from './zip.ts';
import { storedZip } from './zip-write.ts';

const folder = scratch();
const files = [
  { name: 'documents/a.json', bytes: new TextEncoder().encode('{"a":1}') },
  { name: 'bilder/für später.png', bytes: Uint8Array.from({ length: 70_000 }, (_, i) => i % 251) },
  { name: 'empty', bytes: new Uint8Array(0) },
];
const entryOf = ({ name, bytes }: (typeof files)[number]) => ({ name, length: bytes.length, crc: crc32(bytes) });
const archive = () => {
  const { heads, end } = storedZip(files.map(entryOf));
  return new Uint8Array(Buffer.concat([...files.flatMap(({ bytes }, i) => [heads[i], bytes]), ...end]));
};

describe('stored files as an archive', () => {
  it('is what other readers read: fflate and Python', () => {
    const bytes = archive();
    const read = unzipSync(bytes);
    for (const { name, bytes: wanted } of files) expect(Buffer.compare(read[name], wanted)).toBe(0);
    const path = join(folder, 'a.zip');
    writeFileSync(path, bytes);
    expect(tool('python3', '-c', 'import sys, zipfile; z = zipfile.ZipFile(sys.argv[1]); print(z.testzip(), [(i.filename, i.file_size) for i in z.infolist()])', path).toString().trim()).toBe("None [('documents/a.json', 7), ('bilder/für später.png', 70000), ('empty', 0)]");
  });
  it('is read again here', async () => {
    const source = byteSource('a.zip', archive());
    const { entries, isWhole } = await readZip(source);
    expect([isWhole, entries.map(({ name, length }) => [name, length])]).toEqual([true, files.map(({ name, bytes }) => [name, bytes.length])]);
    expect(await readEntry(source, entries[1], 1e6)).toEqual(files[1].bytes);
  });
});

describe('beyond four gigabytes', () => {
  const GIB = 2 ** 30;
  const [long, small] = [{ name: 'long', length: 5 * GIB, crc: 7 }, { name: 'small', length: 3, crc: crc32(Uint8Array.of(1, 2, 3)) }];
  const { heads, end } = storedZip([long, small]);
  const tail = new Uint8Array(Buffer.concat([heads[1], Uint8Array.of(1, 2, 3), ...end]));
  it('lengths and places of 64 bits are read again', async () => {
    const from = heads[0].length + long.length;
    const source: ByteSource = {
      name: 'large.zip',
      size: from + tail.length,
      read: async (offset, length) => {
        const out = new Uint8Array(length);
        for (const [start, piece] of [[0, heads[0]], [from, tail]] as const) {
          const [first, last] = [Math.max(offset, start), Math.min(offset + length, start + piece.length)];
          if (last > first) out.set(piece.subarray(first - start, last - start), first - offset);
        }
        return out;
      },
    };
    const { entries, isWhole } = await readZip(source);
    expect([isWhole, entries.map(({ name, length, offset }) => [name, length, offset])]).toEqual([true, [['long', 5 * GIB, heads[0].length], ['small', 3, from + heads[1].length]]]);
    expect(await readEntry(source, entries[1], 10)).toEqual(Uint8Array.of(1, 2, 3));
  });
  it('as Python reads them, in a file with a hole', async () => {
    const path = join(folder, 'large.zip');
    const at = async (bytes: Uint8Array, start: number) => {
      const stream = createWriteStream(path, { start, flags: start === 0 ? 'w' : 'r+' });
      await new Promise<void>((resolve) => stream.end(bytes, () => resolve()));
    };
    await at(heads[0], 0);
    await at(tail, heads[0].length + long.length);
    expect(tool('python3', '-c', 'import sys, zipfile; z = zipfile.ZipFile(sys.argv[1]); print([(i.filename, i.file_size) for i in z.infolist()], z.read("small"))', path).toString().trim()).toBe("[('long', 5368709120), ('small', 3)] b'\\x01\\x02\\x03'");
  });
  it('an end that says nonsense is no archive, and no crash', async () => {
    for (const [from, value] of [[8, 0xff], [0, 0], [12, 0x7f]] as const) {
      const bytes = Buffer.concat([heads[1], Uint8Array.of(1, 2, 3), ...storedZip([{ ...small, length: 3 }]).end]);
      const broken = Buffer.concat([bytes.subarray(0, -22), Buffer.alloc(20, value), bytes.subarray(-22)]);
      broken.writeUInt32LE(0xffffffff, broken.length - 6);
      broken[broken.length - 42 + from] = value;
      expect((await readZip(byteSource('x.zip', broken))).isWhole).toBe(false);
    }
  });
});
