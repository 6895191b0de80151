import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { latestVersion, type Page, readEvent, readReview, remarksCsv, remarksFile, remarksMarkdown, remarksOn, requests, REVIEW_LIMITS, type ReviewEvent, reviewOf, said, strayRemarks, withRemarksFile } from './index.ts';

const HASH = 'ab'.repeat(32);
const page = (name: string): Page => ({ name, width: 1200, height: 800, picture: { hash: HASH, type: 'jpg' }, before: null });
const opened: ReviewEvent = { type: 'opened', at: 1, id: 'a'.repeat(24), title: 'Kiln Yard', until: 1000, client: HASH, studio: HASH };
const published = (...names: string[]): ReviewEvent => ({ type: 'published', at: 2, note: '', pages: names.map(page) });
const remarked = (id: string, on: string, text = 'Darker, please'): ReviewEvent => ({ type: 'remarked', at: 3, by: 'client', id, page: on, version: 1, place: { x: 0.25, y: 0.5 }, marks: [], author: 'Ada', text });

describe('a review is the fold of its events', () => {
  it('versions and remarks are counted; answers and settling reach their remark', () => {
    const review = reviewOf([opened, published('Day', 'Dusk'), remarked('r1', 'Day'), remarked('r2', 'Dusk'), { type: 'answered', at: 4, by: 'studio', remark: 'r1', id: 'a1', author: 'Studio', text: 'Done' }, { type: 'settled', at: 5, by: 'studio', remark: 'r1', resolved: true }, published('Day')]);
    expect(latestVersion(review)?.number).toBe(2);
    expect(review.remarks.map(({ number, resolved, answers }) => [number, resolved, answers.length])).toEqual([[1, true, 1], [2, false, 0]]);
    // They stay with the name of their page, over versions; without a page they are told apart.
    expect(remarksOn(review, 'Day').map(({ id }) => id)).toEqual(['r1']);
    expect(strayRemarks(review).map(({ id }) => id)).toEqual(['r2']);
  });
  it('said twice is said once; what speaks of nothing changes nothing', () => {
    const twice = reviewOf([opened, published('Day'), remarked('r1', 'Day'), remarked('r1', 'Day', 'again')]);
    expect(twice.remarks.map(({ text }) => text)).toEqual(['Darker, please']);
    expect(reviewOf([opened, { type: 'settled', at: 5, by: 'studio', remark: 'gone', resolved: true }]).remarks).toEqual([]);
  });
  it('closed, and open again with a new link', () => {
    expect(reviewOf([opened, { type: 'closed', at: 2 }]).closed).toBe(true);
    expect(reviewOf([opened, { type: 'closed', at: 2 }, { type: 'relinked', at: 3, client: HASH, until: 99 }])).toMatchObject({ closed: false, until: 99 });
  });
  it('begins with its opening', () => expect(() => reviewOf([published('Day')])).toThrow('begins with its opening'));
  it('every event comes back from its line', () => {
    for (const event of [opened, published('Day'), remarked('r1', 'Day'), { type: 'closed', at: 2 } as const]) expect(readEvent(JSON.parse(JSON.stringify(event)))).toEqual(event);
  });
});

describe('at the border', () => {
  const remark = { id: 'r1', page: 'Day', version: 1, place: { x: 0.5, y: 0.5 }, marks: [[0, 0, 1, 1]], author: 'Ada', text: 'A word' };
  it('takes what it should', () => expect(requests.remark.validateSync(remark)).toEqual(remark));
  it('refuses everything else, with a sentence', () => {
    const wrong: readonly (readonly [object, RegExp])[] = [
      [{ text: '' }, /text is empty/],
      [{ text: ' \n' }, /text is empty/],
      [{ text: 'x'.repeat(REVIEW_LIMITS.text + 1) }, /more than 4000 letters/],
      [{ text: 7 }, /string/],
      [{ place: { x: 1.5, y: 0 } }, /from 0 to 1/],
      [{ place: { x: Number.NaN, y: 0 } }, /from 0 to 1|number/],
      [{ marks: [[0, 0, 1]] }, /no line/],
      [{ marks: Array.from({ length: 51 }, () => [0, 0, 1, 1]) }, /more than 50 entries/],
      [{ id: '../../etc' }, /no identifier/],
      [{ version: 1.5 }, /integer/],
      [{ extra: 1 }, /not known: extra/],
      [{ author: '' }, /author is empty/],
    ];
    for (const [patch, sentence] of wrong) expect(() => requests.remark.validateSync({ ...remark, ...patch }), JSON.stringify(patch).slice(0, 60)).toThrow(sentence);
    expect(() => requests.publish.validateSync({ after: 0, note: '', pages: [page('Day'), page('Day')] })).toThrow('same name');
    expect(() => requests.publish.validateSync({ after: 0, note: '', pages: [] })).toThrow('needs a picture');
    expect(() => readEvent({ type: 'toString' })).toThrow('no event “toString”');
    expect(() => readReview('<html>')).toThrow();
  });
});

describe('remarks as text', () => {
  /** A reader of its own. @source RFC 4180, section 2 */
  const rows = (csv: string) => {
    const found: string[][] = [[]];
    for (const [, quoted, bare, end] of csv.matchAll(/(?:"((?:[^"]|"")*)"|([^",\r\n]*))(,|\r\n)/g)) {
      found.at(-1)?.push(quoted === undefined ? bare : quoted.replaceAll('""', '"'));
      if (end !== ',') found.push([]);
    }
    return found.slice(0, -1);
  };
  it('CSV holds every word, also quotes, commas and line ends, and no formula', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1, maxLength: 60, unit: 'binary' }), (text) => {
        const csv = rows(remarksCsv(reviewOf([opened, published('Day'), remarked('r1', 'Day', text)])));
        expect(csv).toHaveLength(2);
        const cell = csv[1][7];
        expect(cell.replace(/^'/, '')).toBe(text.replace(/^'/, ''));
        expect(cell).not.toMatch(/^[=+\-@\t]/);
      }),
    );
    expect(remarksCsv(reviewOf([opened, published('Day'), remarked('r1', 'Day', '=HYPERLINK("x")')]))).toContain(`"'=HYPERLINK(""x"")"`);
  });
  it('Markdown says what was said, and nothing in it is a mark', () => {
    const text = remarksMarkdown(reviewOf([opened, published('Day'), remarked('r1', 'Day', '<script>*x*'), { type: 'settled', at: 5, by: 'studio', remark: 'r1', resolved: true }]));
    expect(text).toContain('- [x] **1** \\<script\\>\\*x\\*');
    expect(text).toContain('at 25 % from the left and 50 % from the top');
  });
});

describe('remarks that come back as a file', () => {
  const here: readonly ReviewEvent[] = [opened, published('Day'), remarked('r1', 'Day')];
  const there: readonly ReviewEvent[] = [...here, remarked('r2', 'Day', 'Later'), said.answer('r1', { id: 'a1', author: 'Ada', text: 'Yes' }, 'client', 9), said.settle('r1', true, 'studio', 9)];
  it('add what is new, once', () => {
    const first = withRemarksFile(here, remarksFile(there));
    expect(first.added).toBe(3);
    expect(reviewOf(first.events)).toEqual(reviewOf(there));
    expect(withRemarksFile(first.events, remarksFile(there)).added).toBe(0);
  });
  it('publish nothing, and open nothing', () => {
    const text = remarksFile([...there, published('Other'), { type: 'closed', at: 9 }]);
    expect(reviewOf(withRemarksFile(here, text).events)).toMatchObject({ closed: false, versions: [{ number: 1 }] });
    const forged = JSON.parse(text);
    forged.events.push({ type: 'closed', at: 10 }, published('Forged'));
    expect(reviewOf(withRemarksFile(here, JSON.stringify(forged)).events)).toMatchObject({ closed: false, versions: [{ number: 1 }] });
  });
  it('of another review, damaged, or something else: a sentence, and nothing is taken', () => {
    expect(() => withRemarksFile([{ ...opened, id: 'b'.repeat(24) } as ReviewEvent], remarksFile(there))).toThrow('another review than “Kiln Yard”');
    for (const text of ['', '{}', '[]', 'null', remarksFile(there).slice(0, -9)]) expect(() => withRemarksFile(here, text)).toThrow('does not hold remarks');
    const damaged = JSON.parse(remarksFile(there));
    damaged.events[0].place = { x: 7, y: 0 };
    expect(() => withRemarksFile(here, JSON.stringify(damaged))).toThrow('from 0 to 1');
  });
  it('what the studio settled stays settled, unless the client opens it again', () => {
    const settled = [...here, said.settle('r1', true, 'studio', 20)];
    expect(withRemarksFile(settled, remarksFile([...here, said.settle('r1', false, 'client', 10)])).added).toBe(0);
    expect(withRemarksFile(settled, remarksFile([...here, said.settle('r1', false, 'client', 30)])).added).toBe(1);
  });
});
