import { roleLabel } from '@tazzel/core';
import { sourcesFromReport } from '@tazzel/formats';
import { type Command, roleOptions, UsageError } from '../command.ts';
import { fileRef, rulesOf, withEngine } from '../files.ts';

export const inspect: Command = {
  name: 'inspect',
  summary: 'Says what picture files hold: elements, channels, types, windows, and the role that each name suggests.',
  usage: 'inspect FILE…',
  options: roleOptions,
  run: async (invocation) => {
    if (invocation.files.length === 0) throw new UsageError('Name at least one file.');
    const rules = await rulesOf(invocation);
    const results: unknown[] = [];
    await withEngine(async (engine) => {
      for (const path of invocation.files) {
        try {
          const ref = await fileRef(path);
          const report = await engine.inspect(ref);
          const hash = await engine.hash(ref);
          engine.files.set(hash, ref);
          let count = 0;
          const sources = await engine.examine(sourcesFromReport(report, hash, () => `source-${++count}`), { rules });
          const elements = report.elements.map((element, i) => {
            const { role, encoding, guess, findings } = sources[i];
            return { ...element, role, encoding, reason: guess?.reason ?? '', confidence: guess?.confidence ?? 1, findings };
          });
          results.push({ file: path, ...report, elements });
          const { size } = report;
          invocation.say(path);
          invocation.say(`  ${report.format.toUpperCase()}, ${size.width} × ${size.height}`);
          for (const part of report.parts) {
            const { window } = part;
            const covers = window.width === size.width && window.height === size.height && window.x === 0 && window.y === 0;
            invocation.say(`  ${report.parts.length > 1 ? `part ${part.part} “${part.name}”: ` : ''}${part.compression}${covers ? '' : `, pixels ${window.width} × ${window.height} at ${window.x}, ${window.y}`}`);
            for (const element of elements.filter((candidate) => candidate.part === part.part)) {
              const channels = [...element.colorChannels, ...(element.alphaChannel ? [element.alphaChannel] : [])].join(' ');
              const sure = `${Math.round(100 * element.confidence)} %`;
              invocation.say(`  ${(element.name || '(unnamed)').padEnd(24)} ${channels.padEnd(28)} ${element.types.join('/').padEnd(6)} ${roleLabel(element.role)}, ${element.encoding} (${sure}: ${element.reason})`);
              for (const { sentence } of element.findings) invocation.say(`    ! ${sentence}`);
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
