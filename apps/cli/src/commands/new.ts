import { randomUUID } from 'node:crypto';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { addElements, applyEdit, documentOfStack, emptyDocument, layersInOrder, pictureSize, sizeProblems } from '@tazzel/core';
import type { Engine } from '@tazzel/engine';
import { byteSource, fileStem, OPENRASTER_ENDING, PROJECT_EXTENSION, readOpenRaster } from '@tazzel/formats';
import { type Command, type Invocation, roleOptions, text, UsageError } from '../command.ts';
import { megabytes, mustNotExist, takeFiles, withEngine, writeProjectFile } from '../files.ts';

export const newDocument: Command = {
  name: 'new',
  summary: 'Makes a project file of picture files: the beauty becomes the base, an ID picture names the materials. Of one file of layers (.ora) it makes layers.',
  usage: `new FILE|FOLDER… --out doc.${PROJECT_EXTENSION}`,
  options: {
    out: { type: 'string', value: 'FILE', help: 'The project file to write.' },
    ...roleOptions,
    force: { type: 'boolean', help: 'Replace it if it exists.' },
  },
  run: async (invocation) => {
    const out = text(invocation, 'out');
    if (!out || invocation.files.length === 0) throw new UsageError('Name the pictures and the project file: new FILE… --out doc.tazzel');
    mustNotExist(out, invocation.values.force === true);
    await withEngine(async (engine) => {
      if (invocation.files.length === 1 && invocation.files[0].toLowerCase().endsWith(`.${OPENRASTER_ENDING}`)) return ofLayers(engine, invocation, out);
      const { read, facts } = await takeFiles(engine, invocation);
      const sources = read.flatMap((file) => file.sources);
      const size = pictureSize(read);
      if (!size) throw new Error('None of the files could be read, so no project file was written.');
      for (const problem of sizeProblems(size, read)) invocation.say(problem);
      let document = addElements(emptyDocument(randomUUID(), fileStem(out), size), sources, facts);
      const { materials, problems } = await engine.findSchedule(sources);
      for (const sentence of problems) invocation.problem(sentence);
      if (materials.length > 0) document = applyEdit(document, { type: 'set-materials', sourceId: materials[0].sourceId, materials });
      const bytes = await writeProjectFile(engine, document, out);
      invocation.say(`${out}: ${sources.length} elements, ${document.materials.length} materials, ${megabytes(bytes)}`);
      invocation.result({ out, bytes, size, elements: sources.map(({ name, role, encoding }) => ({ name, role, encoding })), materials: document.materials.map(({ tag, name, kind, area }) => ({ tag, name, kind, area })) });
    });
  },
};

/** A file of layers: its pictures are unpacked beside, for as long as they are read. */
async function ofLayers(engine: Engine, invocation: Invocation, out: string): Promise<void> {
  const [path] = invocation.files;
  const { width, height, items, files, problems } = await readOpenRaster(byteSource(basename(path), new Uint8Array(await readFile(path))));
  const folder = await mkdtemp(join(tmpdir(), 'tazzel-layers-'));
  try {
    for (const { name, bytes } of files) await writeFile(join(folder, name), bytes);
    const { read } = await takeFiles(engine, { ...invocation, files: files.map(({ name }) => join(folder, name)) });
    const made = documentOfStack(randomUUID(), fileStem(out), { width, height }, items, read.flatMap(({ sources }) => sources));
    for (const sentence of [...problems, ...made.problems]) invocation.problem(sentence);
    if (made.document.buildUp.picture.length === 0) throw new Error(`None of the layers of ${path} could be read, so no project file was written.`);
    const bytes = await writeProjectFile(engine, made.document, out);
    invocation.say(`${out}: ${made.document.sources.length} layers, ${megabytes(bytes)}`);
    invocation.result({ out, bytes, size: { width, height }, layers: layersInOrder(made.document).map(({ layer }) => layer.name) });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
