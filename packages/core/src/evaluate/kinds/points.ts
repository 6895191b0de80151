/** Steps pixel by pixel; pictures that they read are read at the same place. */
import type { PictureKind } from './define.ts';
import type { PointsWork } from './work.ts';

const inputs = ({ base, nodes }: PointsWork) => [...(base === null ? [] : [base]), ...new Set(Object.values(nodes))];

export const points: PictureKind<PointsWork> = {
  inputs,
  needs: (work, region) => inputs(work).map((picture) => ({ picture, region })),
  make: ({ base, steps, nodes }, region, _planes, tools) => {
    if (steps.length === 0 && base !== null) return tools.read(base, region);
    const pictures = new Map(Object.entries(nodes).map(([node, picture]) => [Number(node), tools.read(picture, region)]));
    return tools.run({ region, steps, base: base === null ? null : tools.read(base, region), pictures });
  },
};
