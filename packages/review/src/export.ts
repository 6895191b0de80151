/** Remarks as text, for those who work with lists. */
import type { Remark, Review } from './review.ts';

const day = (at: number) => new Date(at).toISOString().slice(0, 16).replace('T', ' ');

const COLUMNS: readonly (readonly [title: string, value: (remark: Remark) => string | number])[] = [
  ['Number', ({ number }) => number],
  ['Page', ({ page }) => page],
  ['Version', ({ version }) => version],
  ['X %', ({ place }) => (100 * place.x).toFixed(1)],
  ['Y %', ({ place }) => (100 * place.y).toFixed(1)],
  ['When (UTC)', ({ at }) => day(at)],
  ['Who', ({ author }) => author],
  ['Remark', ({ text }) => text],
  ['Answers', ({ answers }) => answers.map(({ author, text }) => `${author}: ${text}`).join('\n')],
  ['Resolved', ({ resolved }) => (resolved ? 'yes' : 'no')],
];

/** What begins like a formula is one to spreadsheets: an apostrophe before it makes it text. @source RFC 4180; OWASP, CSV injection */
const cell = (value: string | number) => {
  const text = typeof value === 'number' ? String(value) : value.replace(/^[=+\-@\t\r]/, "'$&");
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
};

/** @source RFC 4180 */
export const remarksCsv = ({ remarks }: Review): string => [COLUMNS.map(([title]) => title), ...remarks.map((remark) => COLUMNS.map(([, value]) => value(remark)))].map((row) => `${row.map(cell).join(',')}\r\n`).join('');

/** Words of others as words, not as marks. @source CommonMark 0.31.2, 2.4 backslash escapes */
const plain = (text: string) => text.replace(/[\\`*_{}[\]<>()#+\-.!|~&]/g, '\\$&').replace(/\r?\n/g, '  \n  ');

export function remarksMarkdown(review: Review): string {
  const pages = [...new Set(review.remarks.map(({ page }) => page))];
  const lines = [`# ${plain(review.title)}`, ''];
  for (const page of pages) {
    lines.push(`## ${plain(page)}`, '');
    for (const { number, resolved, text, author, at, version, answers, place } of review.remarks.filter((remark) => remark.page === page)) {
      lines.push(`- [${resolved ? 'x' : ' '}] **${number}** ${plain(text)}  `, `  ${plain(author)}, ${day(at)} UTC, version ${version}, at ${(100 * place.x).toFixed(0)} % from the left and ${(100 * place.y).toFixed(0)} % from the top`);
      for (const answer of answers) lines.push(`  - ${plain(answer.author)}: ${plain(answer.text)}`);
    }
    lines.push('');
  }
  return lines.join('\n');
}
