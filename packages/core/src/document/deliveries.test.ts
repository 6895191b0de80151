import { describe, expect, it } from 'vitest';
import { after, smallDocument } from '../../../../tests/documents.ts';
import type { Delivery } from '../model/model.ts';
import { dayOf, freeName, nameFrom, plannedPictures, sizeOfDelivery, USUAL_NAME } from './deliveries.ts';

const delivery = (patch: Partial<Delivery> = {}): Omit<Delivery, 'id'> => ({ name: USUAL_NAME, format: 'png', values: {}, width: null, halvings: 0, filter: 'lanczos', upto: null, schemes: 'all', ...patch });
const document = after(
  smallDocument(),
  { type: 'rename-document', name: 'Yard' },
  { type: 'set-camera', from: 'hand', params: { focalMillimetres: 27 } },
  { type: 'add-scheme', name: 'Dusk' },
  { type: 'add-scheme', name: 'Winter day' },
  { type: 'add-delivery', delivery: delivery() },
  { type: 'add-delivery', delivery: delivery({ name: '{n} {document}_{camera}, {date}, {width} px', format: 'jpeg', width: 15, schemes: 'shown' }) },
);
const { width, height } = document.size;

describe('pictures that are delivered', () => {
  it('are all of one scheme, then of the next; what is shown alone comes with it', () => {
    const planned = plannedPictures(document, document.deliveries, '2026-11-30');
    expect(planned.map(({ name, schemeId }) => [schemeId, name])).toEqual([
      [null, `Yard-${width}x${height}`],
      ['scheme-1', `Yard-Dusk-${width}x${height}`],
      ['scheme-2', `Yard-Winter day-${width}x${height}`],
      ['scheme-2', '04 Yard_27mm, 2026-11-30, 15 px'],
    ]);
    // Without schemes there is one picture of each.
    const plain = after(document, { type: 'remove-scheme', schemeId: 'scheme-1' }, { type: 'remove-scheme', schemeId: 'scheme-2' });
    expect(plannedPictures(plain, plain.deliveries, '').map(({ schemeId }) => schemeId)).toEqual([null, null]);
  });
  it.each([
    ['{document}-{scheme}-{size}', 'A-10x10'],
    ['{scheme}_{document}', 'A'],
    ['{scheme}', 'picture'],
    ['for print', 'for print'],
    ['{nothing known} {document}', '{nothing known} A'],
    ['{constructor}', '{constructor}'],
  ])('%s, without a scheme, is %s', (pattern, name) => expect(nameFrom(pattern, { document: 'A', scheme: '', size: '10x10' })).toBe(name));
  it('get numbers where names are taken', () => {
    const taken = new Set(['a', 'a-2']);
    expect([freeName('a', (name) => taken.has(name)), freeName('b', (name) => taken.has(name))]).toEqual(['a-3', 'b']);
  });
  it('have the document’s size, halved, or a width of their own', () => {
    const size = { width: 4501, height: 3000 };
    expect([sizeOfDelivery({ size }, { width: null, halvings: 0 }), sizeOfDelivery({ size }, { width: null, halvings: 1 }), sizeOfDelivery({ size }, { width: 900, halvings: 0 })]).toEqual([size, { width: 2251, height: 1500 }, { width: 900, height: 600 }]);
    const cut = { ratio: 2, shiftPercent: 0 };
    expect([sizeOfDelivery({ size }, { width: null, halvings: 1, cut }), sizeOfDelivery({ size }, { width: 900, halvings: 0, cut })]).toEqual([{ width: 2251, height: 1126 }, { width: 900, height: 450 }]);
  });
  it('days are those of the place', () => expect(dayOf(new Date(2026, 0, 5, 23, 59))).toBe('2026-01-05'));
});
