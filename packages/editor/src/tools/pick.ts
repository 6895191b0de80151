import { completeParams, type KeptValues, type MaskTerm, type Reads, sourceOf, srgbDecode, srgbEncode, termSpec } from '@tazzel/core';
import { openTerm } from '../session.ts';
import { clickOrPan, type Tool, type ToolHost } from './define.ts';

/** What a kind of term takes of what lies at a pixel; null if nothing is there to take. */
type Taken = (found: { readonly values: readonly number[] | null; readonly codes: () => Promise<ArrayLike<number>>; readonly encoding: string | null; readonly pixel: readonly [number, number] }, params: KeptValues) => Promise<KeptValues | null>;

const takers: Readonly<Record<string, { readonly label: string; readonly take: Taken }>> = {
  colour: {
    label: 'Pick a colour',
    take: async ({ values, codes, encoding, pixel }) => {
      const shown = values ? [0, 1, 2].map((c) => values[Math.min(c, values.length - 1)]).map((v) => (encoding === 'linear' ? srgbEncode(v) : v) * 255) : Array.from(await codes()).slice(0, 3);
      return { color: shown.map((code) => srgbDecode(Math.min(255, Math.max(0, Math.round(code))) / 255)) as unknown as readonly [number, number, number], at: pixel };
    },
  },
  facing: {
    label: 'Pick a surface',
    take: async ({ values }) => {
      const length = Math.hypot(...(values ?? [0]));
      // Nothing was hit, or the average of an edge says nothing.
      return values && length > 0.2 ? { direction: values.map((v) => Math.round((v / length) * 1000) / 1000) as unknown as readonly [number, number, number] } : null;
    },
  },
  depth: {
    label: 'Pick the middle',
    take: async ({ values }, params) => {
      if (!values) return null;
      const half = (Number(params.farMetres) - Number(params.nearMetres)) / 2;
      return { nearMetres: Math.max(0, values[0] - half), farMetres: values[0] + half };
    },
  },
};

/** What picking for a line is called; null if there is nothing to pick. */
export const pickLabel = ({ type }: MaskTerm): string | null => (Object.hasOwn(takers, type) ? takers[type].label : null);

/** Takes what lies at a pixel as the colour, the direction or the depth of the open line. */
export async function pickForTerm(host: ToolHost, pixel: { readonly x: number; readonly y: number } | null): Promise<void> {
  const open = openTerm(host.session.getState());
  if (!pixel || !open || !Object.hasOwn(takers, open.term.type)) return;
  const { document } = host.session.getState();
  const spec = termSpec(open.term.type);
  const values = completeParams(spec, open.term.params);
  const reads = values as unknown as Reads;
  const source = reads.after ? null : sourceOf(reads, document, spec.reads?.roles ?? []);
  const found = { values: source ? await host.valuesAt(source, pixel.x, pixel.y) : null, codes: () => host.codesAt(document, pixel.x, pixel.y), encoding: source?.encoding ?? null, pixel: [pixel.x, pixel.y] as const };
  const params = await takers[spec.id].take(found, values);
  if (!params) return;
  host.session.actions.edit({ type: 'set-params', maskId: open.maskId, termId: open.term.id, params });
  host.session.actions.set({ tool: 'select' });
}

export const pick: Tool = {
  id: 'pick',
  label: 'Pick',
  cursor: 'crosshair',
  stages: ['surfaces'],
  press: (host, place) => clickOrPan(host, place, ({ at }) => void pickForTerm(host, host.pixelAt(at))),
};
