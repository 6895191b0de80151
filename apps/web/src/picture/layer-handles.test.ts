import { describe, expect, it } from 'vitest';
import { type Placement, SCALE_LIMITS, UNPLACED } from '@tazzel/core';
import { hexOf, readHex } from '@tazzel/core';
import { placedBy } from './layer-handles.tsx';

const box = { x: 100, y: 50, width: 200, height: 100 };
const [MIDDLE, UPPER_LEFT, LOWER_RIGHT, RIGHT, UPPER, TURN] = [0, 1, 3, 5, 8, 9];
const placed = (patch: Partial<Placement> = {}): Placement => ({ ...UNPLACED, ...patch });

describe('placing a layer by its handles', () => {
  it('the middle moves it', () => expect(placedBy(box, placed({ offsetX: 5 }), MIDDLE, [215, 90])).toEqual(placed({ offsetX: 15, offsetY: -10 })));
  it('a corner scales it evenly about its middle, and never turns it over', () => {
    expect(placedBy(box, placed(), LOWER_RIGHT, [400, 200])).toEqual(placed({ scaleX: 2, scaleY: 2 }));
    expect(placedBy(box, placed({ scaleX: 2, scaleY: 0.5 }), UPPER_LEFT, [200 - 100, 100 - 12.5])).toMatchObject({ scaleX: 1, scaleY: 0.25 });
    const { scaleX, scaleY } = placedBy(box, placed(), LOWER_RIGHT, [-1000, -1000]);
    expect([scaleX > 0, scaleY > 0]).toEqual([true, true]);
  });
  it('a side scales one way, through nothing to mirrored', () => {
    expect(placedBy(box, placed(), RIGHT, [350, 1000])).toEqual(placed({ scaleX: 1.5 }));
    expect(placedBy(box, placed(), RIGHT, [150, 100])).toEqual(placed({ scaleX: -0.5 }));
    expect(placedBy(box, placed(), UPPER, [0, 75])).toEqual(placed({ scaleY: 0.5 }));
    expect(placedBy(box, placed(), RIGHT, [1e6, 0]).scaleX).toBe(SCALE_LIMITS[1]);
  });
  it('turned, sides are dragged along its own axes', () => {
    expect(placedBy(box, placed({ rotationDegrees: 90 }), RIGHT, [200, 100 + 150])).toEqual(placed({ rotationDegrees: 90, scaleX: 1.5 }));
  });
  it('the stem turns it: up is nothing, right is a quarter clockwise, also when it stands on its head', () => {
    expect(placedBy(box, placed({ rotationDegrees: 40 }), TURN, [200, 0]).rotationDegrees).toBeCloseTo(0);
    expect(placedBy(box, placed(), TURN, [300, 100]).rotationDegrees).toBeCloseTo(90);
    expect(placedBy(box, placed({ scaleY: -1 }), TURN, [200, 300]).rotationDegrees).toBeCloseTo(0);
  });
});

describe('colours by hex codes', () => {
  it('are read in the usual ways, and nothing else', () => {
    expect(['#8a1f1f', '8A1F1F', ' #fff ', 'abc'].map(readHex)).toEqual(['#8a1f1f', '#8a1f1f', '#ffffff', '#aabbcc']);
    expect(['', '#12', '#12345', 'red', '#gggggg'].map(readHex)).toEqual([null, null, null, null, null]);
  });
  it('show light as it is encoded', () => expect([hexOf([0, 0.2158605, 1]), hexOf([2, -1, 0.18])]).toEqual(['#0080ff', '#ff0076']));
});
