import { choice } from '@tazzel/core';
import { escapedXml } from '../colours/xml.ts';
import { zipFiles } from '../project/container.ts';
import { defineLayeredFormat, type WrittenItem } from './define.ts';
import { dither, dpi } from './shared.ts';

const escaped = (text: string) =>
  escapedXml(
    [...text]
      // Characters that no XML document may hold.
      .filter((char) => char >= ' ' || char === '\t')
      .join(''),
  );

/** @source OpenRaster specification 0.0.6 (freedesktop.org): file layout, stack.xml, composite-op */
export const openraster = defineLayeredFormat({
  id: 'openraster',
  label: 'OpenRaster',
  hint: 'Layers with their modes, for other programs: those over the tone line, on one picture of all that is under it.',
  endings: ['ora'],
  mimeType: 'image/openraster',
  params: { bits: choice({ label: 'Bits', help: '16 for more work elsewhere.', options: { '8': '8', '16': '16' }, default: '8' }), dither, dpi },
  assemble: ({ width, height, items, merged, thumbnail }, { dpi }) => {
    const files: { name: string; parts: readonly Uint8Array[] }[] = [];
    const lines = (list: readonly WrittenItem[], indent: string): string[] =>
      // The topmost comes first.
      list.toReversed().flatMap((item) => {
        const common = `name="${escaped(item.name)}" composite-op="${item.operator}" opacity="${Number(item.opacity.toFixed(6))}" visibility="${item.visible ? 'visible' : 'hidden'}"`;
        if (item.kind === 'group') return [`${indent}<stack ${common} isolation="${item.isolated ? 'isolate' : 'auto'}">`, ...lines(item.items, `${indent}  `), `${indent}</stack>`];
        const src = `data/layer${files.length}.png`;
        files.push({ name: src, parts: item.png });
        return [`${indent}<layer ${common} src="${src}" x="0" y="0"/>`];
      });
    const resolution = dpi > 0 ? ` xres="${dpi}" yres="${dpi}"` : '';
    const stack = ['<?xml version="1.0" encoding="UTF-8"?>', `<image version="0.0.3" w="${width}" h="${height}"${resolution}>`, '  <stack>', ...lines(items, '    '), '  </stack>', '</image>', ''].join('\n');
    const text = (content: string) => [new TextEncoder().encode(content)];
    return [zipFiles([{ name: 'mimetype', parts: text('image/openraster') }, { name: 'stack.xml', parts: text(stack) }, ...files, { name: 'mergedimage.png', parts: merged }, { name: 'Thumbnails/thumbnail.png', parts: thumbnail }])];
  },
});
