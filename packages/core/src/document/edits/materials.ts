/** Rows of the material schedule. */
import { usesMaterial } from '../mask-edits.ts';
import { mergedMaterials } from '../merge-rows.ts';
import type { Material } from '../../model/model.ts';
import { findMaterial, findSource } from '../../model/query.ts';
import { type Handlers, named, refuse } from './define.ts';

export type MaterialEdit =
  | { type: 'set-materials'; sourceId: string; materials: readonly Material[] }
  | { type: 'rename-material'; materialId: string; name: string }
  | { type: 'group-materials'; materialIds: readonly string[]; surface: string | null };

export const materialEdits: Handlers<MaterialEdit> = {
  'set-materials': {
    label: 'Find materials',
    apply: (document, { sourceId, materials }) => {
      if (!findSource(document, sourceId)) refuse(`There is no element ${sourceId}.`);
      return { ...document, materials: mergedMaterials(document, materials) };
    },
  },
  'rename-material': {
    label: 'Rename material',
    apply: (document, { materialId, name }) => {
      const material = findMaterial(document, materialId) ?? refuse(`There is no material ${materialId}.`);
      const renamed = { ...material, name: named(name, 'a material') };
      // A mask that still carries the material's own name follows it.
      const masks = document.masks.map((mask) => (mask.name === material.name && usesMaterial(mask, materialId) ? { ...mask, name: renamed.name } : mask));
      return { ...document, masks, materials: document.materials.map((other) => (other === material ? renamed : other)) };
    },
  },
  'group-materials': {
    label: 'Group surfaces',
    apply: (document, { materialIds, surface }) => {
      const lost = materialIds.find((id) => !findMaterial(document, id));
      if (lost !== undefined) refuse(`There is no material ${lost}.`);
      const name = surface === null ? null : named(surface, 'a surface');
      return { ...document, materials: document.materials.map((material) => (materialIds.includes(material.id) ? { ...material, surface: name } : material)) };
    },
  },
};
