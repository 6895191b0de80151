import { boardLack, findScenario, groupsOf } from '../light/board.ts';
import { scenario } from '../params/references.ts';
import { defineLayer } from './define.ts';

/** All light groups in one of their mixes: in the place of the beauty, a render under any light. */
export const light = defineLayer({
  id: 'light',
  label: 'Light mix',
  summary: 'All light groups of the render, mixed on the light board: in the place of the beauty.',
  isPlaced: false,
  params: { scenario: scenario({ label: 'Mix', help: 'The mix on the light board, or a scenario that was kept.' }) },
  nameOf: ({ document, values }) => findScenario(document, values.scenario)?.name ?? 'Light mix',
  problem: ({ document, values }) => boardLack(document) ?? (values.scenario !== '' && !findScenario(document, values.scenario) ? 'the scenario that it shows is gone. Choose another one.' : null),
  uses: ({ document }) => groupsOf(document).map(({ id }) => id),
  origin: ({ scenario: id }, { document, mixed }) => ({ from: mixed((findScenario(document, id) ?? document.light).mix), domain: 'light', bounded: false, scale: null, domainRegion: null }),
});
