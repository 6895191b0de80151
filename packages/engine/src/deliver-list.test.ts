/** A list of deliveries: names, failures, cancelling; the pixels are those of single deliveries. */
import { type Delivery, emptyDocument, type TazzelDocument, underScheme } from '@tazzel/core';
import { describe, expect, it } from 'vitest';
import { after, smallDocument } from '../../../tests/documents.ts';
import { deliverList, type DeliverListRequest } from './deliver-list.ts';
import type { DeliverRequest } from './engine.ts';
import { Cancelled } from './errors.ts';

const delivery = (patch: Partial<Delivery> = {}): Omit<Delivery, 'id'> => ({ name: '{document}-{scheme}', format: 'png', values: {}, width: null, halvings: 0, filter: 'lanczos', upto: null, schemes: 'all', ...patch });
const document = after(smallDocument(), { type: 'rename-document', name: 'Yard' }, { type: 'add-scheme', name: 'Dusk' }, { type: 'set-layer', layerId: 'layer-1', patch: { opacity: 0.5 } }, { type: 'add-delivery', delivery: delivery() }, { type: 'add-delivery', delivery: delivery({ format: 'jpeg', values: { quality: 70 }, width: 12 }) });

/** Writes what it was asked for. */
const engine = (problem?: (request: DeliverRequest) => Error | null) => {
  const asked: DeliverRequest[] = [];
  return {
    asked,
    deliver: async (request: DeliverRequest) => {
      asked.push(request);
      const error = problem?.(request);
      if (error) throw error;
      request.onProgress?.(1);
      return { parts: [new TextEncoder().encode(`${request.format} ${JSON.stringify(request.values)}`)], size: request.document.size, problems: [] };
    },
  };
};
const run = async (on: ReturnType<typeof engine>, patch: Partial<DeliverListRequest> = {}) => {
  const files: string[] = [];
  const report = await deliverList(on, { document, deliveries: document.deliveries, day: '2026-11-30', isTaken: () => false, write: async (name) => void files.push(name), ...patch });
  return { files, report };
};

describe('a list of deliveries', () => {
  it('is each scheme in each form; a scheme’s forms share their pixels', async () => {
    const on = engine();
    const shares: number[] = [];
    const { files, report } = await run(on, { onProgress: (share) => shares.push(share) });
    expect(files).toEqual(['yard.png', 'yard.jpg', 'yard-dusk.png', 'yard-dusk.jpg']);
    expect(report.every(({ bytes, problems }) => bytes > 0 && problems.length === 0)).toBe(true);
    expect(on.asked.map(({ format, level, resize }) => [format, level, resize?.width])).toEqual([['png', 0, undefined], ['jpeg', undefined, 12], ['png', 0, undefined], ['jpeg', undefined, 12]]);
    const looks = ({ buildUp }: TazzelDocument) => buildUp;
    expect(on.asked.map((request) => looks(request.document))).toEqual([null, null, 'scheme-1', 'scheme-1'].map((id) => looks(underScheme(document, id))));
    expect(on.asked[0].shared).toBe(on.asked[1].shared);
    expect(on.asked[1].shared).not.toBe(on.asked[2].shared);
    expect(shares).toEqual([0.25, 0.5, 0.75, 1]);
  });
  it('in other proportions where a form has some', async () => {
    const on = engine();
    const cut = { ratio: 2, shiftPercent: -100 };
    const square = after(document, { type: 'set-delivery', deliveryId: 'delivery-2', patch: { cut } });
    const { report } = await run(on, { document: square, deliveries: square.deliveries });
    expect(on.asked.map((request) => request.cut ?? null)).toEqual([null, cut, null, cut]);
    expect(report[1].size).toEqual({ width: 12, height: 6 });
  });
  it('overwrites nothing: neither what is there nor what it wrote itself', async () => {
    const alike = after(document, { type: 'set-delivery', deliveryId: 'delivery-2', patch: { format: 'png' } });
    const { files } = await run(engine(), { document: alike, deliveries: alike.deliveries, isTaken: (name) => name === 'yard.png' });
    expect(files).toEqual(['yard-2.png', 'yard-3.png', 'yard-dusk.png', 'yard-dusk-2.png']);
  });
  it('one that fails costs itself', async () => {
    const { files, report } = await run(engine(({ format }) => (format === 'jpeg' ? new Error('Too large for a JPEG.') : null)));
    expect(files).toEqual(['yard.png', 'yard-dusk.png']);
    expect(report.filter(({ bytes }) => bytes === 0).map(({ name, problems }) => [name, ...problems])).toEqual([['yard.jpg', 'Too large for a JPEG.'], ['yard-dusk.jpg', 'Too large for a JPEG.']]);
    const strange = await run(engine(), { deliveries: [{ ...document.deliveries[0], format: 'papyrus' }] });
    expect(strange.report[0].problems).toEqual(['There is no format “papyrus” here.']);
  });
  it('a disk that is full ends it: what is done stays, the rest is listed', async () => {
    const written: string[] = [];
    const { report } = await run(engine(), {
      write: async (name) => {
        if (written.length === 2) throw new Error('There is no room left on the disk.');
        written.push(name);
      },
    });
    expect(written).toEqual(['yard.png', 'yard.jpg']);
    expect(report.map(({ problems }) => problems)).toEqual([[], [], ['There is no room left on the disk.'], ['It was not made, because the one before could not be written.']]);
  });
  it('cancelled, the rest is listed as well', async () => {
    const abort = new AbortController();
    const on = engine(({ format }) => {
      if (format !== 'jpeg') return null;
      abort.abort();
      return new Cancelled();
    });
    const { files, report } = await run(on, { signal: abort.signal });
    expect(files).toEqual(['yard.png']);
    expect(report.map(({ problems }) => problems[0] ?? '')).toEqual(['', 'It was cancelled.', 'It was cancelled before.', 'It was cancelled before.']);
  });
  it('of nothing is nothing', async () => expect((await run(engine(), { document: emptyDocument('d', 'D', { width: 4, height: 4 }), deliveries: [] })).report).toEqual([]));
});
