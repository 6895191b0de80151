import { roleLabel, shortened, type Source } from '@tazzel/core';
import type { FileReport } from '@tazzel/formats';
import { type Command, type Invocation, roleOptions, UsageError } from '../command.ts';
import { readPictures, rulesOf, withEngine } from '../files.ts';

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
      for (const picture of await readPictures(engine, invocation.files, rules)) {
        if ('error' in picture) {
          results.push({ file: picture.path, error: picture.error.message });
          invocation.problem(picture.error.message);
        } else results.push(describe(invocation, picture.path, picture.report, picture.sources));
      }
    });
    invocation.result(results);
  },
};

/** Names of a coverage matte alone are a book; programs get them whole. */
const LONGEST_NOTE = 300;

/** Says what a file holds, and returns it for programs. */
function describe(invocation: Invocation, path: string, report: FileReport, sources: readonly Source[]): unknown {
  const elements = report.elements.map((element, i) => {
    const { role, encoding, guess, findings } = sources[i];
    return { ...element, role, encoding, reason: guess?.reason ?? '', confidence: guess?.confidence ?? 1, findings };
  });
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
  for (const sentence of report.remarks) invocation.say(`  ! ${sentence}`);
  for (const [name, value] of Object.entries(report.notes)) invocation.say(`  ${name}: ${shortened(value, LONGEST_NOTE)}`);
  return { file: path, ...report, elements };
}
