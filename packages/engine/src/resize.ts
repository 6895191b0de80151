/** Finished pixels at another size. The picture is filtered as light, not as codes: else fine bright lines would darken. */
import { clampUnit, resamplingFilters, resizeRows, srgbDecode, srgbEncode } from '@tazzel/core';
import type { Kernels } from '@tazzel/kernels';
import { writeOutput } from './output.ts';
import type { ResizeRequest } from './protocol.ts';

export function resizePicture({ pixels, kind, from, to, filter, into, rows, output }: ResizeRequest, kernels: Kernels): void {
  const chosen = resamplingFilters[filter];
  if (kind === 'float') {
    const [source, result] = [new Float32Array(pixels), new Float32Array(output)];
    const [area, small] = [from.width * from.height, to.width * to.height];
    resizeRows(
      4,
      from,
      to,
      chosen,
      (y, row) => {
        for (let c = 0; c < 4; c++) row.set(source.subarray(c * area + y * from.width, c * area + (y + 1) * from.width), c * from.width);
      },
      (y, row) => {
        for (let c = 0; c < 4; c++) result.set(row.subarray(c * to.width, (c + 1) * to.width), c * small + y * to.width);
      },
      rows,
    );
    return;
  }
  const codes = new Uint16Array(pixels);
  const light = Float32Array.from({ length: 65536 }, (_, code) => srgbDecode(code / 65535));
  resizeRows(
    4,
    from,
    to,
    chosen,
    (y, row) => {
      for (let x = 0, at = y * from.width * 4; x < from.width; x++, at += 4) {
        const alpha = codes[at + 3] / 65535;
        for (let c = 0; c < 3; c++) row[c * from.width + x] = light[codes[at + c]] * alpha;
        row[3 * from.width + x] = alpha;
      }
    },
    (y, row) => {
      // As the evaluation hands pixels over: picture values, premultiplied.
      for (let x = 0; x < to.width; x++) {
        const alpha = clampUnit(row[3 * to.width + x]);
        for (let c = 0; c < 3; c++) row[c * to.width + x] = alpha > 0 ? srgbEncode(clampUnit(row[c * to.width + x] / alpha)) * alpha : 0;
        row[3 * to.width + x] = alpha;
      }
      writeOutput({ region: { x: 0, y, width: to.width, height: 1 }, planes: row, opaque: false }, { x: 0, y: 0, ...to }, into, output, kernels);
    },
    rows,
  );
}
