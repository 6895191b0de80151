import { randomUUID } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { addElements, applyEdit, emptyDocument, levelWithin, pictureSize, sizeProblems } from '@tazzel/core';
import { fileStem, PROJECT_EXTENSION, writeProject } from '@tazzel/formats';
import { type Command, roleOptions, text, UsageError } from '../command.ts';
import { mustNotExist, takeFiles, withEngine, writeParts } from '../files.ts';

export const newDocument: Command = {
  name: 'new',
  summary: 'Makes a project file of picture files: the beauty becomes the base, an ID picture names the materials.',
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
      const { read, facts, paths } = await takeFiles(engine, invocation);
      const sources = read.flatMap((file) => file.sources);
      const size = pictureSize(read);
      if (!size) throw new Error('None of the files could be read, so no project file was written.');
      for (const problem of sizeProblems(size, read)) invocation.say(problem);
      let document = addElements(emptyDocument(randomUUID(), fileStem(out), size), sources, facts);
      const { materials, problems } = await engine.findSchedule(sources);
      for (const sentence of problems) invocation.problem(sentence);
      if (materials.length > 0) document = applyEdit(document, { type: 'set-materials', sourceId: materials[0].sourceId, materials });
      const preview = await engine.deliver({ document, values: { dither: false }, level: levelWithin(size, 512) });
      const files = new Map<string, Uint8Array>();
      for (const [hash, path] of paths) files.set(hash, new Uint8Array(await readFile(path)));
      const bytes = await writeParts(out, [writeProject(document, files, Buffer.concat(preview.parts))]);
      invocation.say(`${out}: ${sources.length} elements, ${document.materials.length} materials, ${(bytes / 2 ** 20).toFixed(1)} MB`);
      invocation.result({ out, bytes, size, elements: sources.map(({ name, role, encoding }) => ({ name, role, encoding })), materials: document.materials.map(({ tag, name, kind, area }) => ({ tag, name, kind, area })) });
    });
  },
};
