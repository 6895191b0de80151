import { join } from 'node:path';
import { frameCount, frameDocument, secondsOf } from '@tazzel/core';
import { fileStem } from '@tazzel/formats';
import { type Command, text, UsageError } from '../command.ts';
import { mustNotExist, openProject, withEngine, writeParts } from '../files.ts';
import { SCALES } from './flatten.ts';

export const frames: Command = {
  name: 'frames',
  summary: 'Writes the frames of a project file in which its light changes, as numbered PNG or EXR files.',
  usage: 'frames doc.tazzel --out DIR',
  options: {
    out: { type: 'string', value: 'DIR', help: 'The folder for the files; it is made if it is not there.' },
    format: { type: 'string', value: 'png|exr', help: 'PNG holds the picture, EXR its scene light; png by default.' },
    scale: { type: 'string', value: '1|0.5|0.25|0.125', help: 'Size of the frames, 1 by default.' },
    from: { type: 'string', value: 'N', help: 'The first frame, counted from 0.' },
    to: { type: 'string', value: 'N', help: 'The last frame.' },
    force: { type: 'boolean', help: 'Replace files that exist.' },
  },
  run: async (invocation) => {
    const out = text(invocation, 'out');
    if (!out || invocation.files.length !== 1) throw new UsageError('Name one project file and a folder: frames doc.tazzel --out DIR');
    const format = text(invocation, 'format') ?? 'png';
    if (format !== 'png' && format !== 'exr') throw new UsageError(`--format ${format}: expected png or exr.`);
    const level = SCALES[text(invocation, 'scale') ?? '1'];
    if (level === undefined) throw new UsageError(`--scale ${text(invocation, 'scale')}: expected one of ${Object.keys(SCALES).sort().reverse().join(', ')}.`);
    await withEngine(async (engine) => {
      const document = await openProject(engine, invocation.files[0], invocation.problem);
      const count = frameCount(document.light.frames);
      if (count === 0) throw new Error('The document has no frames. Set scenarios at moments in the stage Light, under Frames.');
      const number = (name: string, otherwise: number) => {
        const given = text(invocation, name);
        const found = given === undefined ? otherwise : Number(given);
        if (!Number.isInteger(found) || found < 0 || found >= count) throw new UsageError(`--${name} ${given}: there are frames 0 to ${count - 1}.`);
        return found;
      };
      const [first, last] = [number('from', 0), number('to', count - 1)];
      const nameOf = (frame: number) => join(out, `${fileStem(invocation.files[0])}.${String(frame).padStart(4, '0')}.${format}`);
      for (let frame = first; frame <= last; frame++) mustNotExist(nameOf(frame), invocation.values.force === true);
      const files: string[] = [];
      for (let frame = first; frame <= last; frame++) {
        const { parts, problems } = await engine.deliver({ document: frameDocument(document, frame), format, values: format === 'png' ? { dither: false } : {}, level });
        if (frame === first) for (const problem of problems) invocation.problem(problem);
        await writeParts(nameOf(frame), parts);
        files.push(nameOf(frame));
      }
      invocation.say(`${out}: ${files.length} frames, ${document.light.frames.perSecond} a second, ${secondsOf(document.light.frames).toFixed(1)} s`);
      invocation.result({ files, perSecond: document.light.frames.perSecond });
    });
  },
};
