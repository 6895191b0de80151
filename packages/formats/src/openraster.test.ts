import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { joined, platform } from '../../../tests/formats.ts';
import { byteSource } from './bytes.ts';
import { readOpenRaster } from './openraster.ts';
import { encodePng } from './png/encode.ts';

const png = async (code: number) => joined(await encodePng({ width: 2, height: 1, rgba: new Uint8Array(8).fill(code) }, platform));
const stackOf = (inner: string, attributes = 'w="64" h="48"') => strToU8(`<?xml version='1.0' encoding='UTF-8'?>\n<image version="0.0.6" ${attributes}><stack>${inner}</stack></image>`);
const file = (entries: Record<string, Uint8Array>) => byteSource('x.ora', zipSync({ mimetype: [strToU8('image/openraster'), { level: 0 }], ...entries }));

describe('files of layers of other programs', () => {
  it('layers and groups in their order, with modes, opacities, places, whatever else is said of them', async () => {
    const stack = stackOf(`
      <!-- topmost first -->
      <layer name="Top &amp; &lt;last&gt;" src="data/a.png" x="-3" y="12" opacity="0.25" composite-op="svg:multiply" selected="true" mypaint:locked="1"/>
      <stack name="Inside" isolation="isolate"><layer src="data/b.png"/><layer name="Hidden" src="data/a.png" visibility="hidden"/></stack>
      <stack name="Through"><layer name="Low" src="data/b.png" x="1.6"/></stack>
      <stack opacity="0.5"><layer name="Half" src="data/b.png"/></stack>
      <filter/>
      <layer name="Ground" src="data/b.png" composite-op="svg:dst-in"/>`.replace('mypaint:', 'own-'));
    const read = await readOpenRaster(file({ 'stack.xml': stack, 'data/a.png': await png(1), 'data/b.png': await png(2) }));
    expect([read.width, read.height]).toEqual([64, 48]);
    expect(read.problems).toEqual([]);
    expect(read.files.map(({ name }) => name)).toEqual(['01 ground.png', '02 hidden.png']);
    const [ground, half, through, inside, top] = read.items;
    expect(ground).toMatchObject({ kind: 'picture', name: 'Ground', operator: 'svg:dst-in', fileName: '01 ground.png' });
    expect(half).toMatchObject({ kind: 'group', name: 'Group', isolated: true, opacity: 0.5 });
    expect(through).toMatchObject({ kind: 'group', isolated: false, items: [{ name: 'Low', x: 2 }] });
    expect(inside).toMatchObject({ isolated: true, items: [{ name: 'Hidden', visible: false, fileName: '02 hidden.png' }, { visible: true }] });
    expect(top).toMatchObject({ name: 'Top & <last>', operator: 'svg:multiply', opacity: 0.25, x: -3, y: 12 });
  });
  it('what is missing or damaged is named and left out', async () => {
    const a = await png(1);
    const stack = stackOf('<layer name="There" src="a.png" opacity="7"/><layer name="Gone" src="b.png"/><layer name="Nameless"/>');
    const read = await readOpenRaster(file({ 'stack.xml': stack, 'a.png': a }));
    expect(read.items).toHaveLength(1);
    expect(read.items[0].opacity).toBe(1);
    expect(read.problems).toEqual(['“Nameless”: its picture has no name and is missing in the file. The layer was left out.', '“Gone”: its picture b.png is missing in the file. The layer was left out.']);
  });
  it.each([
    ['no zip', async () => byteSource('x.ora', strToU8('no zip at all, but some text')), 'x.ora: there is no readable stack.xml'],
    ['no stack', async () => file({ 'a.png': await png(1) }), 'no readable stack.xml'],
    ['no size', async () => file({ 'stack.xml': stackOf('<layer src="a.png"/>', 'w="0" h="x"'), 'a.png': await png(1) }), 'does not say how large'],
    ['no layer', async () => file({ 'stack.xml': stackOf('') }), 'there is no layer in it'],
    ['half an element', async () => file({ 'stack.xml': strToU8('<image w="1" h="1"><stack><layer') }), 'line 1'],
    ['too many layers', async () => file({ 'stack.xml': stackOf('<layer src="a.png"/>'.repeat(600)), 'a.png': await png(1) }), 'more than 500 layers'],
    ['groups without an end', async () => file({ 'stack.xml': stackOf(`${'<stack>'.repeat(30)}<layer src="a.png"/>${'</stack>'.repeat(30)}`), 'a.png': await png(1) }), 'more than 20 deep'],
  ] as const)('%s is refused with a reason', async (_, source, reason) => {
    await expect(source().then(readOpenRaster)).rejects.toThrow(reason);
  });
  it('entities are not followed: a few lines of them cannot become gigabytes', async () => {
    const bomb = strToU8('<?xml version="1.0"?><!DOCTYPE image [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><image w="4" h="4"><stack><layer name="&b;" src="a.png"/></stack></image>');
    const [layer] = (await readOpenRaster(file({ 'stack.xml': bomb, 'a.png': await png(1) }))).items;
    expect(layer.name.length).toBeLessThan(10);
  });
});
