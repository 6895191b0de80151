import { corrections } from '@tazzel/core';
import type { Command } from '../command.ts';

export const listCorrections: Command = {
  name: 'corrections',
  summary: 'Lists the corrections with their parameters, ranges, units and sources.',
  usage: 'corrections',
  options: {},
  run: async (invocation) => {
    for (const { id, label, summary, params, source } of corrections) {
      invocation.say(`${id}  ${label}. ${summary}`);
      for (const [name, { label: title, unit, min, max, default: initial, help }] of Object.entries(params)) invocation.say(`  ${name}  ${title}, ${min} to ${max} ${unit}, ${initial} by default. ${help}`);
      invocation.say(`  Source: ${source}`);
    }
    invocation.result(corrections.map(({ id, label, summary, params, zones, domain, source }) => ({ id, label, summary, params, zones, domain, source })));
  },
};
