import { describe, expect, it } from 'vitest';
import { after, source } from '../../../../tests/documents.ts';
import { draw } from '../../../../tests/pictures.ts';
import { planDocument } from '../evaluate/plan.ts';
import { lightOf } from '../evaluate/targets.ts';
import { emptyDocument, type Source, type TazzelDocument } from '../model/model.ts';
import { type Measure, measure } from '../raster/measure.ts';
import { glareQuestions, glareVerdict } from './glare.ts';

const [WIDTH, HEIGHT] = [32, 24];
const SIZE = { width: WIDTH, height: HEIGHT };
const plane = (at: (x: number, y: number) => number) => ({ ...SIZE, type: 'f32' as const, data: Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => at(i % WIDTH, Math.floor(i / WIDTH))) });
/** A lamp before a wall that is lit from the left; how it falls off is of no account. */
const direct = (x: number) => 0.3 + 0.01 * x;
const gi = (_: number, y: number) => 0.1 + 0.005 * y;
const glare = (x: number, y: number) => 0.4 / (1 + (x - 16) ** 2 + (y - 12) ** 2);

/** What is said of a render whose beauty is this. */
function said(beauty: (x: number, y: number) => number, elements: readonly Source['role'][] = []): string | null {
  const values: Readonly<Record<string, ReturnType<typeof plane>>> = { beauty: plane(beauty), 'direct-lighting': plane(direct), gi: plane(gi), glare: plane(glare) };
  const sources = (['beauty', 'glare', ...elements] as const).map((role, i) => source(i + 1, { role, name: role, ...SIZE }));
  const document = after(emptyDocument('glare', 'Glare', SIZE), { type: 'add-sources', sources });
  const questions = glareQuestions(document, sources[1]);
  if (!questions) return null;
  const measured = (about: TazzelDocument): Measure => {
    const plan = planDocument(about);
    const view = (id: string) => {
      const { role } = sources.find((each) => each.id === id) as Source;
      return { color: [values[role], values[role], values[role]], alpha: null, premultiplied: false, x: 0, y: 0 };
    };
    return measure(draw(plan, { target: lightOf(plan), source: view, mask: () => { throw new Error('There are no masks.'); } }).pixels.planes, 'light', null);
  };
  return glareVerdict({ glare: measured(questions.glare), beauty: measured(questions.beauty), less: measured(questions.less), sum: questions.sum && measured(questions.sum) });
}

describe('glare of the renderer', () => {
  const rendered = (x: number, y: number) => direct(x) + gi(x, y);
  it('is held by a beauty that is its elements and the glare', () => {
    expect(said((x, y) => rendered(x, y) + glare(x, y), ['direct-lighting', 'gi'])).toBe('held');
  });
  it('is apart from a beauty that is its elements alone', () => {
    expect(said(rendered, ['direct-lighting', 'gi'])).toBe('apart');
  });
  it('is apart where the beauty is darker than it, whatever else is known', () => {
    expect(said((x, y) => (y < 18 ? 0.001 : rendered(x, y)))).toBe('apart');
  });
  it('is an open question without elements, and with elements that leave something else', () => {
    expect(said((x, y) => rendered(x, y) + glare(x, y))).toBe('open');
    expect(said((x, y) => rendered(x, y) + 0.5, ['direct-lighting', 'gi'])).toBe('open');
  });
  it('is not asked about without a beauty', () => {
    const alone = source(1, { role: 'glare', ...SIZE });
    expect(glareQuestions(after(emptyDocument('glare', 'Glare', SIZE), { type: 'add-sources', sources: [alone] }), alone)).toBeNull();
  });
});
