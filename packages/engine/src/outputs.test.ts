import { describe, expect, it } from 'vitest';
import { type FlatPicture, FlatPictures, OutputMemory } from './outputs.ts';

const memory = () => {
  const sizes: number[] = [];
  const made = new OutputMemory((byteLength) => {
    sizes.push(byteLength);
    return new ArrayBuffer(byteLength);
  });
  return { made, sizes };
};
const settled = () => new Promise((resolve) => setTimeout(resolve));

describe('OutputMemory', () => {
  it('lends what was given back to the next picture of the same size, and keeps two at most', () => {
    const { made, sizes } = memory();
    const [a, b, c] = [made.take(8), made.take(8), made.take(16)];
    for (const block of [a, b, c]) made.giveBack(block);
    expect(made.take(16)).toBe(c);
    expect(made.take(8)).toBe(b);
    expect(made.take(8)).not.toBe(a);
    expect(sizes).toEqual([8, 8, 16, 8]);
  });

  it('lets everything go when memory is short', () => {
    const { made } = memory();
    const block = made.take(8);
    made.giveBack(block);
    made.forget();
    expect(made.take(8)).not.toBe(block);
  });
});

describe('FlatPictures', () => {
  const picture = (bytes: number): FlatPicture => ({ size: { width: 1, height: bytes }, pixels: new ArrayBuffer(bytes), opaque: true, problems: [] });
  const pictures = (most: number) => {
    const [flats, back] = [new FlatPictures(most), [] as number[]];
    const ask = (key: string, bytes: number, use: () => Promise<void> = async () => undefined) => flats.with(key, async () => picture(bytes), (block) => back.push(block.byteLength), async ({ pixels }) => use().then(() => pixels.byteLength));
    return { flats, back, ask };
  };

  it('keeps the last ones for the next form; what leaves is given back once', async () => {
    const { flats, back, ask } = pictures(2);
    expect(await ask('a', 1)).toBe(1);
    // Made once: the second one would be larger.
    expect(await ask('a', 99)).toBe(1);
    await ask('b', 2);
    expect(back).toEqual([]);
    await ask('c', 3);
    await settled();
    expect(back).toEqual([1]);
    flats.clear();
    await settled();
    expect(back).toEqual([1, 2, 3]);
  });

  it('gives nothing back while it is read', async () => {
    const { flats, back, ask } = pictures(1);
    let end: () => void = () => undefined;
    const reading = ask('a', 1, () => new Promise((resolve) => (end = resolve)));
    const alsoReading = ask('a', 1, async () => undefined);
    await alsoReading;
    flats.clear();
    await settled();
    expect(back).toEqual([]);
    end();
    await reading;
    await settled();
    expect(back).toEqual([1]);
  });

  it('of which none is kept gives back as soon as it was read', async () => {
    const { back, ask } = pictures(0);
    await ask('a', 4);
    await settled();
    expect(back).toEqual([4]);
  });

  it('makes again what failed', async () => {
    const [flats, back] = [new FlatPictures(), [] as number[]];
    const giveBack = (block: ArrayBufferLike) => void back.push(block.byteLength);
    await expect(flats.with('a', () => Promise.reject(new Error('no')), giveBack, async () => 1)).rejects.toThrow('no');
    expect(await flats.with('a', async () => picture(5), giveBack, async ({ pixels }) => pixels.byteLength)).toBe(5);
    expect(back).toEqual([]);
  });
});
