import { roleLabel, shortened, type Source } from '@tazzel/core';
import { type FileReport, sourcesFromReport } from '@tazzel/formats';
import { type Command, type Invocation, roleOptions, UsageError } from '../command.ts';
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
      const opened: { path: string; report: FileReport; sources: Source[] }[] = [];
      const fail = (path: string, error: Error) => {
        results.push({ file: path, error: error.message });
        invocation.problem(error.message);
      };
      for (const path of invocation.files) {
        try {
          const ref = await fileRef(path);
          const report = await engine.inspect(ref);
          const hash = await engine.hash(ref);
          engine.files.set(hash, ref);
          let count = 0;
          opened.push({ path, report, sources: sourcesFromReport(report, hash, () => `source-${opened.length + 1}-${++count}`) });
        } catch (error) {
          fail(path, error as Error);
        }
      }
      // Together, as a drop in the browser is: what all files are called says nothing about one of them.
      const examined = await engine.examineEach(opened.map(({ sources }) => sources), { rules });
      for (const [i, { path, report }] of opened.entries()) {
        const sources = examined[i];
        if (sources instanceof Error) fail(path, sources);
        else results.push(describe(invocation, path, report, sources));
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
