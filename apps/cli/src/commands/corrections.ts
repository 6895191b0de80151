import { corrections, paramKind } from '@tazzel/core';
import type { Command } from '../command.ts';

export const listCorrections: Command = {
  name: 'corrections',
  summary: 'Lists the corrections with their parameters, ranges, units and sources.',
  usage: 'corrections',
  options: {},
  run: async (invocation) => {
    for (const { id, label, summary, params, source } of corrections) {
      invocation.say(`${id}  ${label}. ${summary}`);
      for (const [name, param] of Object.entries(params)) invocation.say(`  ${name}  ${param.label}: ${paramKind(param).range(param).replaceAll('`', '')}; ${paramKind(param).write(param, param.default)} by default. ${param.help}`);
      invocation.say(`  Source: ${source}`);
    }
    invocation.result(corrections.map(({ id, label, summary, params, zones, domain, source }) => ({ id, label, summary, params, zones, domain, source })));
  },
};
