import { guessEncoding, guessRole, roleLabel } from '@tazzel/core';
import { fileStem } from '@tazzel/formats';
import type { Command } from '../command.ts';
import { UsageError } from '../command.ts';
import { fileRef, withEngine } from '../files.ts';

export const inspect: Command = {
  name: 'inspect',
  summary: 'Says what picture files hold: elements, channels, types, windows, and the role that each name suggests.',
  usage: 'inspect FILE…',
  options: {},
  run: async (invocation) => {
    if (invocation.files.length === 0) throw new UsageError('Name at least one file.');
    const results: unknown[] = [];
    await withEngine(async (engine) => {
      for (const path of invocation.files) {
        try {
          const report = await engine.inspect(await fileRef(path));
          const elements = report.elements.map((element) => {
            const { role, reason } = guessRole(element.name || fileStem(path));
            const encoding = guessEncoding(role, element.types.every((type) => type === 'u8' || type === 'u16') ? 'integer' : 'float');
            return { ...element, role, reason, encoding };
          });
          results.push({ file: path, ...report, elements });
          const { size } = report;
          invocation.say(`${path}\n  ${report.format.toUpperCase()}, ${size.width} × ${size.height}`);
          for (const part of report.parts) {
            const { window } = part;
            const covers = window.width === size.width && window.height === size.height && window.x === 0 && window.y === 0;
            invocation.say(`  ${report.parts.length > 1 ? `part ${part.part} “${part.name}”: ` : ''}${part.compression}${covers ? '' : `, pixels ${window.width} × ${window.height} at ${window.x}, ${window.y}`}`);
            for (const element of elements.filter((candidate) => candidate.part === part.part)) {
              const channels = [...element.colorChannels, ...(element.alphaChannel ? [element.alphaChannel] : [])].join(' ');
              invocation.say(`  ${(element.name || '(unnamed)').padEnd(24)} ${channels.padEnd(28)} ${element.types.join('/').padEnd(6)} ${roleLabel(element.role)}, ${element.encoding} (${element.reason})`);
            }
          }
          for (const sentence of report.leftOut) invocation.problem(sentence);
          for (const [name, value] of Object.entries(report.notes)) invocation.say(`  ${name}: ${value}`);
        } catch (error) {
          results.push({ file: path, error: (error as Error).message });
          invocation.problem((error as Error).message);
        }
      }
    });
    invocation.result(results);
  },
};
