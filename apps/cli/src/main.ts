import { parseArgs } from 'node:util';
import { CoreError, isShortage } from '@tazzel/core';
import { printable } from './printable.ts';
import { type Command, type Invocation, parseConfig, UsageError } from './command.ts';
import { check } from './commands/check.ts';
import { listCorrections } from './commands/corrections.ts';
import { deliver } from './commands/deliver.ts';
import { figures } from './commands/figures.ts';
import { flatten } from './commands/flatten.ts';
import { frames } from './commands/frames.ts';
import { inspect } from './commands/inspect.ts';
import { light } from './commands/light.ts';
import { masks } from './commands/masks.ts';
import { measureCommand } from './commands/measure.ts';
import { newDocument } from './commands/new.ts';
import { render } from './commands/render.ts';
import { review } from './commands/review.ts';
import { watch } from './commands/watch.ts';

const commands: readonly Command[] = [inspect, newDocument, check, masks, render, flatten, deliver, watch, review, figures, light, frames, measureCommand, listCorrections];

function overview(): string {
  return ['Tazzel finishes architectural renderings in layers.', '', ...commands.map((command) => `  npx tazzel ${command.name.padEnd(12)} ${command.summary}`), '', 'Every command takes --json for programs and --help for its options.', 'Exit codes: 0 done, 1 something could not be read or written or does not add up, 2 the command line is wrong.'].join('\n');
}

function help(command: Command): string {
  const options = Object.entries({ ...command.options, json: { type: 'boolean' as const, help: 'Print the result as JSON.', value: undefined } });
  return [command.summary, '', `  npx tazzel ${command.usage}`, '', ...options.map(([name, option]) => `  --${name}${option.value ? ` ${option.value}` : ''}\n      ${option.help}`)].join('\n');
}

/** Where lines go: what was asked for, and what went wrong. */
export interface Output {
  out(line: string): void;
  err(line: string): void;
}

/** Our own sentences as they are; what the system says, with what it means. */
function sentenceOf(error: unknown): string {
  if (isShortage(error)) return 'There is not enough memory for this. Use fewer or smaller elements, or close other programs.';
  const { code, path } = (error ?? {}) as NodeJS.ErrnoException;
  const meaning = { ENOSPC: 'there is no room left on the disk', EACCES: 'it may not be written or read', EPERM: 'it may not be changed', ENAMETOOLONG: 'its name is too long', EISDIR: 'it is a folder', ENOTDIR: 'a part of its path is no folder', EROFS: 'the disk may only be read' }[code ?? ''];
  if (meaning) return `${path ?? 'A file'}: ${meaning}.`;
  return error instanceof Error ? error.message : String(error);
}

/** One call of the program. @returns its exit code: 0 done, 1 something could not be read or written or does not add up, 2 the words are wrong */
export async function main(args: readonly string[], { out, err }: Output): Promise<number> {
  const [name, ...rest] = args;
  if (name === undefined || name === 'help' || name === '--help') {
    out(overview());
    return name === undefined ? 2 : 0;
  }
  const command = commands.find((candidate) => candidate.name === name);
  if (!command) {
    err(`There is no command “${name}”. Commands: ${commands.map((candidate) => candidate.name).join(', ')}.`);
    return 2;
  }
  let failed = false;
  const json = rest.includes('--json');
  try {
    const parsed = parseArgs({ ...parseConfig(command), args: [...rest] });
    const values: Invocation['values'] = parsed.values;
    if (values.help) {
      out(help(command));
      return 0;
    }
    const invocation: Invocation = {
      files: parsed.positionals,
      values,
      json,
      say: (line) => void (json || out(printable(line))),
      result: (value) => void (json && out(JSON.stringify(value, null, 1))),
      problem: (sentence) => {
        failed = true;
        err(printable(sentence, true));
      },
    };
    await command.run(invocation);
    return failed ? 1 : 0;
  } catch (error) {
    const wrongWords = error instanceof UsageError || (error instanceof TypeError && 'code' in error && String(error.code).startsWith('ERR_PARSE_ARGS')) || (error instanceof CoreError && error.code === 'bad-parameter');
    const message = sentenceOf(error);
    err(printable(message, true));
    if (json) out(JSON.stringify({ error: message }));
    return wrongWords ? 2 : 1;
  }
}
