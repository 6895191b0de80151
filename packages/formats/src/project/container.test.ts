import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { CoreError, type TazzelDocument } from '@tazzel/core';
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
  it('2,000 mutated files are read or refused by name', async () => {
    const { bytes } = await project();
    const counts = await fuzz([bytes], 2000, 91, async (source) => readProject(source, { hash }), (error) => error instanceof CoreError);
    expect(counts.read).toBeGreaterThan(200);
    expect(counts.read + counts.refused).toBe(2000);
  });
});
