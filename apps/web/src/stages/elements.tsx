import { findSource } from '@tazzel/core';
import { ElementBench } from '../bench/element-bench.tsx';
import { SetBench } from '../bench/set-bench.tsx';
import { Horizon } from '../picture/horizon.tsx';
import { ElementSchedule } from '../schedules/element-schedule.tsx';
import { useDocument, useSession } from '../workspace/context.ts';
import type { Stage } from './stage.ts';

function Bench() {
  const document = useDocument();
  const sourceId = useSession((state) => state.selectedSourceId);
  const source = sourceId ? findSource(document, sourceId) : null;
  return source ? <ElementBench key={source.id} source={source} /> : <SetBench />;
}

export const elementsStage: Stage = { Schedules: ElementSchedule, Bench, pointsAtMaterials: false, handles: () => null, Overlay: Horizon };
