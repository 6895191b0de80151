import { clickOrPan, modeOf, type Tool } from './define.ts';

/** A click selects the material under the pointer, where materials are pointed at. */
export const select: Tool = {
  id: 'select',
  label: 'Select',
  cursor: 'default',
  stages: null,
  press: (host, place) =>
    clickOrPan(host, place, (released) => {
      if (host.pointsAtMaterials) host.session.actions.selectMaterial(host.hoveredMaterialId(), modeOf(released));
    }),
};
