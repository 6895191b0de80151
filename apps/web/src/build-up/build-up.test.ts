import { applyEdit, layersInOrder, type TazzelDocument } from '@tazzel/core';
import { describe, expect, it, vi } from 'vitest';
import { after, smallDocument } from '../../../../tests/documents.ts';
import { smallPictures } from '../ui/small-pictures.ts';
import { idsInOrder, placeAfterDrag, TONE_LINE } from './place.ts';

describe('dragging a card', () => {
  const document = after(smallDocument(), { type: 'add-layer', layer: 'element', params: { source: 'source-1' }, zone: 'scene' });
  it('every place of the row is reached, and the row is then as it was shown', () => {
    const shown = layersInOrder;
    const idsOf = (of: TazzelDocument) => idsInOrder(shown(of));
    const ids = idsOf(document);
    expect(ids).toEqual(['layer-1', 'layer-3', TONE_LINE, 'layer-2']);
    for (const dragged of ids.filter((id) => id !== TONE_LINE)) {
      for (const over of ids) {
        const place = placeAfterDrag(document, shown(document), dragged, over);
        if (dragged === over) {
          expect(place).toBeNull();
          continue;
        }
        const row = ids.filter((id) => id !== dragged).toSpliced(ids.indexOf(over), 0, dragged);
        expect(idsOf(applyEdit(document, { type: 'move-layer', layerId: dragged, ...(place ?? { zone: 'scene', index: 0 }) })), `${dragged} over ${over}`).toEqual(row);
      }
    }
    expect(placeAfterDrag(document, shown(document), 'layer-9', 'layer-1')).toBeNull();
    expect(layersInOrder(document)).toHaveLength(3);
  });
});

describe('card pictures', () => {
  it('are made two at a time, after a pause, and not when they were withdrawn', async () => {
    vi.useFakeTimers();
    const running = { now: 0, most: 0, made: [] as number[] };
    const task = (i: number) => async () => {
      running.most = Math.max(running.most, ++running.now);
      await new Promise((resolve) => setTimeout(resolve, 50));
      running.now--;
      running.made.push(i);
      if (i === 3) throw new Error('this one fails and holds nobody up');
    };
    const withdraw = [0, 1, 2, 3, 4, 5].map((i) => smallPictures.add(task(i)));
    withdraw[1]();
    await vi.advanceTimersByTimeAsync(100);
    expect(running.made).toEqual([]);
    await vi.advanceTimersByTimeAsync(1000);
    expect(running.made.toSorted()).toEqual([0, 2, 3, 4, 5]);
    expect(running.most).toBe(2);
    vi.useRealTimers();
  });
});
