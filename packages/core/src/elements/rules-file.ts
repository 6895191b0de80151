/** Rules for roles as a JSON file, which the interface exports and the shell reads. */
import { CoreError } from '../errors.ts';
import type { RoleRule } from './guess.ts';
import { isRoleId } from './roles.ts';

const RULES_FORMAT = 'tazzel-role-rules';

export function isRoleRule(value: unknown): value is RoleRule {
  const rule = value as Partial<RoleRule> | null;
  return typeof rule === 'object' && rule !== null && typeof rule.role === 'string' && isRoleId(rule.role) && Array.isArray(rule.words) && rule.words.length > 0 && rule.words.every((word) => typeof word === 'string');
}

export const rulesFile = (rules: readonly RoleRule[]): string => `${JSON.stringify({ format: RULES_FORMAT, rules }, null, 1)}\n`;

/** @throws CoreError `bad-rules` if the text is something else */
export function readRulesFile(text: string): RoleRule[] {
  let json: { format?: unknown; rules?: unknown } | null = null;
  try {
    json = JSON.parse(text);
  } catch {
    // Told below, like everything else that is not such a file.
  }
  if (json?.format !== RULES_FORMAT || !Array.isArray(json.rules) || !json.rules.every(isRoleRule)) throw new CoreError('bad-rules', 'This file does not hold rules for roles. Choose one that was exported from the list of rules.');
  return json.rules.map(({ words, role }) => ({ words, role }));
}
