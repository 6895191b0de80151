import { join } from 'node:path';
import { type Mask, newMask, materialTerm, problemSentence } from '@tazzel/core';
import { PROJECT_EXTENSION, safeName } from '@tazzel/formats';
import { type Command, text, texts, UsageError } from '../command.ts';
import { mustNotExist, openProject, withEngine, writeParts } from '../files.ts';

export const masks: Command = {
  name: 'masks',
  summary: 'Writes the masks of a project file: a grey PNG for each, and one EXR with all of them.',
  usage: `masks doc.${PROJECT_EXTENSION} --out DIR`,
  options: {
    out: { type: 'string', value: 'DIR', help: 'Where the files go.' },
    bits: { type: 'string', value: '8|16', help: 'Bits of the PNGs, 8 by default.' },
    only: { type: 'string', multiple: true, value: 'MASK', help: 'Only this mask (name or id); may be given several times.' },
    materials: { type: 'boolean', help: 'A mask of every material and object of the schedule instead of those on the shelf.' },
    force: { type: 'boolean', help: 'Replace files that exist.' },
  },
  run: async (invocation) => {
    const out = text(invocation, 'out');
    if (!out || invocation.files.length !== 1) throw new UsageError('Name one project file and a folder: masks doc.tazzel --out masks');
    const bits = text(invocation, 'bits') ?? '8';
    if (!['8', '16'].includes(bits)) throw new UsageError(`--bits ${bits}: expected 8 or 16.`);
    await withEngine(async (engine) => {
      const document = await openProject(engine, invocation.files[0], invocation.problem);
      const all = invocation.values.materials === true ? document.materials.filter(({ area }) => area > 0).map(({ id, tag, name }) => newMask(id, name === tag ? tag : `${tag} ${name}`, [materialTerm([id])])) : document.masks;
      const wanted = chosen(all, texts(invocation, 'only'));
      if (wanted.length === 0) throw new Error(`${document.name} has no ${invocation.values.materials === true ? 'materials' : 'masks'}, so no file was written.`);
      const names = fileNames(wanted);
      const together = join(out, `${safeName(document.name)}_masks.exr`);
      const paths = names.map((name) => join(out, `${name}.png`));
      for (const path of [...paths, together]) mustNotExist(path, invocation.values.force === true);
      const written: { file: string; mask: string; problems: string[] }[] = [];
      for (const [i, mask] of wanted.entries()) {
        const { parts, problems } = await engine.maskFile(document, mask, bits === '16' ? 16 : 8);
        for (const problem of problems) invocation.problem(`${mask.name}: ${problemSentence(problem)}`);
        await writeParts(paths[i], parts);
        written.push({ file: paths[i], mask: mask.name, problems: problems.map(problemSentence) });
        invocation.say(paths[i]);
      }
      await writeParts(together, await engine.maskFiles(document, wanted, names));
      invocation.say(`${together}: ${wanted.length} channels`);
      invocation.result({ files: written, exr: together, ...document.size });
    });
  },
};

function chosen(all: readonly Mask[], only: readonly string[]): readonly Mask[] {
  if (only.length === 0) return all;
  return only.map((name) => {
    const found = all.find(({ id }) => id === name) ?? all.find((mask) => mask.name === name);
    if (!found) throw new UsageError(`There is no mask “${name}”. Masks: ${all.map((mask) => mask.name).join(', ') || 'none'}.`);
    return found;
  });
}

/** Names that files and channels can have, all different. A dot would make a layer of a channel. */
function fileNames(all: readonly Mask[]): string[] {
  const taken = new Set<string>();
  return all.map(({ name }) => {
    const plain = safeName(name).replaceAll('.', '_');
    let free = plain;
    for (let n = 2; taken.has(free.toLowerCase()); n++) free = `${plain}_${n}`;
    taken.add(free.toLowerCase());
    return free;
  });
}
