import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { CoreError, type TazzelDocument } from '@tazzel/core';
import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { smallDocument } from '../../../../tests/documents.ts';
import { hashOfFile } from '@tazzel/engine/node';
import { fuzz, platform } from '../../../../tests/formats.ts';
import { scratch, tool } from '../../../../tests/tools.ts';
import { type ByteSource, byteSource } from '../bytes.ts';
import { neededFiles, type ProjectFile, readProject, writeProject } from './container.ts';

async function project(): Promise<{ document: TazzelDocument; files: Map<string, Uint8Array>; bytes: Uint8Array }> {
  const start = smallDocument();
  const files = new Map<string, Uint8Array>();
  const sources = [];
  for (const [i, source] of start.sources.entries()) {
    const content = new TextEncoder().encode(`contents of file ${i} `.repeat(40));
    const hash = await platform.sha256(content);
    files.set(hash, content);
    sources.push({ ...source, file: { ...source.file, hash, byteLength: content.length } });
  }
  const document = { ...start, sources };
  return { document, files, bytes: writeProject(document, files, Uint8Array.of(1, 2, 3)) };
}
const hash = (part: ByteSource) => hashOfFile(part, platform);
const open = (bytes: Uint8Array) => readProject(byteSource('doc.tazzel', bytes), { hash });
const bytesOf = (file: ProjectFile | undefined, project: Uint8Array) => (!file ? [] : 'bytes' in file ? [...file.bytes] : [...project.subarray(file.offset, file.offset + file.length)]);

describe('the project file', () => {
  it('gives back the document and every byte of its files', async () => {
    const { document, files, bytes } = await project();
    const read = await open(bytes);
    expect(read.document).toEqual(document);
    expect(read.problems).toEqual([]);
    expect([...read.files.keys()].toSorted()).toEqual([...files.keys()].toSorted());
    for (const [hash, content] of files) expect(bytesOf(read.files.get(hash), bytes)).toEqual([...content]);
    expect([...writeProject(document, files, Uint8Array.of(1, 2, 3))]).toEqual([...bytes]);
    expect(neededFiles(document)).toHaveLength(3);
  });
  it('is a zip that other programs read', async () => {
    const { bytes, files } = await project();
    const path = join(scratch(), 'doc.tazzel');
    writeFileSync(path, bytes);
    const listed = tool('python3', '-c', 'import sys,zipfile,hashlib,json\nz=zipfile.ZipFile(sys.argv[1])\nassert z.testzip() is None\nprint(json.dumps({n:hashlib.sha256(z.read(n)).hexdigest() for n in z.namelist()}))', path).toString();
    const entries = JSON.parse(listed) as Record<string, string>;
    expect(Object.keys(entries)).toEqual(expect.arrayContaining(['document.json', 'preview.png']));
    for (const hash of files.keys()) expect(entries[`sources/${hash}.exr`]).toBe(hash);
  });
});

describe('a damaged project file', () => {
  it('cut off: what stands before the cut is opened, the rest is named', async () => {
    const { bytes, document } = await project();
    const second = Buffer.from(bytes).indexOf(`sources/${document.sources[1].file.hash}`);
    const read = await open(bytes.slice(0, second + 200));
    expect(read.document).toEqual(document);
    expect(read.files.has(document.sources[0].file.hash)).toBe(true);
    expect(read.problems).toHaveLength(2);
    expect(read.problems[0]).toMatch(/“element-2\.exr” is missing in the project file. Its layers stay/);
  });
  it('a changed file is damaged, not shown as if it were sound', async () => {
    const { bytes, document } = await project();
    const changed = bytes.slice();
    changed[Buffer.from(bytes).indexOf('contents of file 2') + 30] ^= 1;
    const read = await open(changed);
    expect(read.problems).toEqual([expect.stringMatching(/“element-3\.exr” is damaged/)]);
    expect(read.files.has(document.sources[2].file.hash)).toBe(false);
  });
  it('other zips, other files and broken documents are refused with a reason', async () => {
    const { bytes } = await project();
    await expect(open(new Uint8Array(50))).rejects.toMatchObject({ message: expect.stringMatching(/no readable document\.json/) });
    const renamed = bytes.slice();
    for (let at = Buffer.from(renamed).indexOf('document.json'); at >= 0; at = Buffer.from(renamed).indexOf('document.json')) renamed[at] = 0x44;
    await expect(open(renamed)).rejects.toMatchObject({ code: 'not-recognised' });
    const { document, files } = await project();
    const foreign = writeProject({ ...document, format: 'other' } as unknown as TazzelDocument, files, null);
    await expect(open(foreign)).rejects.toBeInstanceOf(CoreError);
  });
  it('bombs are refused by what they state, or stop at what they stated', async () => {
    const bomb = (name: string, stated: number, real: number): Uint8Array => {
      const bytes = zipSync({ [name]: [new Uint8Array(real), { level: 9 }] });
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
      // The length in the local header and in the directory.
      for (let at = 0; at + 4 <= bytes.length; at++) {
        if (view.getUint32(at, true) === 0x04034b50) view.setUint32(at + 22, stated, true);
        if (view.getUint32(at, true) === 0x02014b50) view.setUint32(at + 24, stated, true);
      }
      return bytes;
    };
    await expect(open(bomb('document.json', 200 * 2 ** 20, 4 * 2 ** 20))).rejects.toMatchObject({ code: 'too-large' });
    await expect(open(bomb('document.json', 1000, 4 * 2 ** 20))).rejects.toMatchObject({ code: 'corrupt' });
    await expect(open(bomb('document.json', 60 * 2 ** 20, 2000))).rejects.toMatchObject({ code: 'corrupt' });
    const { document } = await project();
    const [file] = neededFiles(document);
    const many = zipSync({ 'document.json': strToU8(JSON.stringify(document)), [`sources/${file.hash}.exr`]: [new Uint8Array(3_000_000), { level: 9 }] });
    const read = await open(many);
    expect(read.files.size).toBe(0);
    expect(read.problems[0]).toMatch(/damaged in the project file/);
    const brackets = zipSync({ 'document.json': strToU8(`[${'[],'.repeat(2_100_000)}1]`) });
    await expect(open(brackets)).rejects.toMatchObject({ code: 'too-large', message: expect.stringMatching(/document\.json is too large: it holds 2100001 lists/) });
  });
  it('packed by another program, and with what does not belong there, it is read all the same', async () => {
    const { document, files } = await project();
    const [[hash, content]] = files;
    const bytes = zipSync({ 'readme.txt': strToU8('x'), 'document.json': [strToU8(JSON.stringify(document, null, 2)), { level: 9 }], [`sources/${hash}.exr`]: [content, { level: 9 }], 'sources/not-a-hash.exr': strToU8('y') });
    const read = await open(bytes);
    expect(read.document).toEqual(document);
    expect(bytesOf(read.files.get(hash), bytes)).toEqual([...content]);
  });
  it('2,000 mutated files are read or refused by name', async () => {
    const { bytes } = await project();
    const counts = await fuzz([bytes], 2000, 91, async (source) => readProject(source, { hash }), (error) => error instanceof CoreError);
    expect(counts.read).toBeGreaterThan(200);
    expect(counts.read + counts.refused).toBe(2000);
  });
});
