/** The list of renders that a document had. */
import type { EarlierRender, TazzelDocument } from '../../model/model.ts';
import { sourcesWith } from '../renders.ts';
import { type Handlers, named, refuse } from './define.ts';
import { documentEdits } from './document.ts';

export type RenderEdit =
  /** Puts an earlier render in the place of the present one, which takes its place in the list. */
  | { type: 'bring-render'; renderId: string; keeps: { readonly name: string; readonly at: number | null } }
  | { type: 'rename-render'; renderId: string; name: string }
  | { type: 'remove-render'; renderId: string };

const find = ({ renders }: TazzelDocument, renderId: string): EarlierRender => renders.find(({ id }) => id === renderId) ?? refuse(`There is no render ${renderId}.`);
const without = (document: TazzelDocument, render: EarlierRender): TazzelDocument => ({ ...document, renders: document.renders.filter((each) => each !== render) });

export const renderEdits: Handlers<RenderEdit> = {
  'bring-render': {
    label: 'Bring a render back',
    concernsAllSchemes: true,
    apply: (document, { renderId, keeps }) => {
      const render = find(document, renderId);
      const { size } = document;
      const scales = render.size.width !== size.width || render.size.height !== size.height;
      const { materials, camera, sun } = render;
      const brought = documentEdits.refresh.apply(without(document, render), { type: 'refresh', sources: sourcesWith(document, render), materials: materials.length > 0 ? materials : null, size: render.size, scales, camera, sun, keeps });
      // It was taken by this camera, whatever was set since.
      return { ...brought, camera, sun };
    },
  },
  'rename-render': {
    label: 'Rename a render',
    apply: (document, { renderId, name }) => {
      const render = find(document, renderId);
      return { ...document, renders: document.renders.map((each) => (each === render ? { ...render, name: named(name, 'a render') } : each)) };
    },
  },
  'remove-render': {
    label: 'Remove a render',
    apply: (document, { renderId }) => without(document, find(document, renderId)),
  },
};
