import { type ParamHead, type ParamKind, Unfit } from './define.ts';

/** A moment in universal time: `2026-06-21T16:30Z`. */
export type MomentParam = ParamHead<'moment', string>;

export const moment = (param: Omit<MomentParam, 'kind'>): MomentParam => ({ kind: 'moment', ...param });

const FORM = /^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d)(?::\d\d(?:\.\d+)?)?Z?$/;
const EXPECTED = 'a date and time in UTC, as 2026-06-21T16:30Z';

export const momentKind: ParamKind<MomentParam> = {
  read: (_, given) => (typeof given === 'string' ? (written(given) ?? new Unfit(EXPECTED)) : new Unfit(EXPECTED)),
  write: (_, value) => value,
  parse: (_, text) => text.trim(),
  summary: (_, value) => `${value.slice(0, 10)} ${value.slice(11, 16)} UTC`,
  range: () => EXPECTED,
};

/** To the minute; null for what is no moment, such as the 31st of June. */
function written(text: string): string | null {
  const parts = FORM.exec(text.trim());
  if (!parts) return null;
  const [, year, month, day, hour, minute] = parts;
  const form = `${year}-${month}-${day}T${hour}:${minute}`;
  const time = Date.parse(`${form}:00Z`);
  return Number.isFinite(time) && new Date(time).toISOString().startsWith(form) ? `${form}Z` : null;
}
