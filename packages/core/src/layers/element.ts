import { findSource } from '../model/query.ts';
import { boardLack } from '../light/board.ts';
import { litBy, partInSum } from '../light/relit.ts';
import { flag } from '../params/flag.ts';
import { element as elementParam } from '../params/references.ts';
import { defineLayer } from './define.ts';

/** An element in the stack. */
export const elementLayer = defineLayer({
  id: 'element',
  label: 'Element',
  summary: 'A render element or another picture.',
  isPlaced: true,
  params: {
    source: elementParam({ label: 'Element', help: 'What the layer shows.' }),
    isRelit: flag({ label: 'Lit by the board', default: false, help: 'Its part of the light as it is mixed on the light board: all additive elements together are then the mix exactly, each by itself is an estimate.' }),
  },
  nameOf: ({ document, values }) => findSource(document, values.source)?.name ?? 'Element',
  fault: ({ document, values }) => (findSource(document, values.source) === null ? 'its element is missing' : null),
  problem: ({ document, values }) => (values.isRelit ? (boardLack(document) ?? (partInSum(document, values.source) === null ? 'it is not among the elements that add up to the beauty, so the light board cannot light it. Switch that off.' : null)) : null),
  uses: ({ document, values }) => (values.isRelit ? litBy(document) : []),
  boxOf: ({ document, values }) => {
    const source = findSource(document, values.source);
    return source && { x: source.x, y: source.y, ...(source.fit ?? { width: source.width, height: source.height }) };
  },
  origin: (values, { zone, source: read, relit }) => {
    const source = read(values.source);
    if (!source) return null;
    const { scale, offset, encoding, x, y } = source;
    const { width, height } = source.fit ?? source;
    return {
      from: { kind: 'source', sourceId: source.id },
      domain: encoding === 'data' ? (zone === 'scene' ? 'light' : 'display') : encoding === 'linear' ? 'light' : 'display',
      // Light that becomes display values is clamped on the way; numbers that enter the picture unconverted must be.
      bounded: encoding === 'display' && scale === 1 && offset === 0,
      scale: scale === 1 && offset === 0 ? null : { kind: 'scale', scale, offset },
      domainRegion: { x, y, width, height },
      times: values.isRelit ? relit(source.id) : null,
    };
  },
});
