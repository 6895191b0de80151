import type { ParseArgsConfig } from 'node:util';

/** Wrong words on the command line: exit code 2. Everything else that fails is exit code 1. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}

export interface Option {
  readonly type: 'string' | 'boolean';
  readonly multiple?: boolean;
  /** What stands for the value in the help. */
  readonly value?: string;
  readonly help: string;
}

export interface Invocation {
  readonly files: readonly string[];
  readonly values: Readonly<Record<string, string | boolean | readonly string[] | undefined>>;
  readonly json: boolean;
  /** A line for people; silent with --json. */
  say(line: string): void;
  /** The result for programs; silent without --json. */
  result(value: unknown): void;
  /** Something went wrong that does not end the command: it goes on, and ends with exit code 1. */
  problem(sentence: string): void;
}

export interface Command {
  readonly name: string;
  readonly summary: string;
  readonly usage: string;
  readonly options: Readonly<Record<string, Option>>;
  run(invocation: Invocation): Promise<void>;
}

export const parseConfig = (command: Command): ParseArgsConfig & { allowPositionals: true; strict: true } => {
  const options: Record<string, { type: 'string' | 'boolean'; multiple: boolean }> = { json: { type: 'boolean', multiple: false }, help: { type: 'boolean', multiple: false } };
  for (const [name, { type, multiple = false }] of Object.entries(command.options)) options[name] = { type, multiple };
  return { allowPositionals: true, strict: true, options };
};

export function text(invocation: Invocation, name: string): string | undefined {
  const value = invocation.values[name];
  return typeof value === 'string' ? value : undefined;
}

/** Options of all commands that give elements their roles. */
export const roleOptions: Command['options'] = {
  rules: { type: 'string', value: 'FILE', help: 'Your own rules for roles, as the list of rules exports them.' },
};

export const texts = (invocation: Invocation, name: string): readonly string[] => (invocation.values[name] as readonly string[] | undefined) ?? [];
