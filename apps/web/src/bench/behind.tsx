import type { Material } from '@tazzel/core';
import { questions, useAnswer } from '../answers.ts';
import { percent } from '../schedules/material-schedule.tsx';
import { Fact } from '../ui/section.tsx';
import { useDocument } from '../workspace/context.ts';

/** Where a material is seen through glass or in mirrors, if the render says so. */
export function Behind({ material }: { material: Material }) {
  const document = useDocument();
  const { data } = useAnswer(questions.behind(document, material));
  if (!data || data.length === 0) return null;
  return (
    <Fact label="Seen in">
      {data.slice(0, 4).map(({ front, area }) => (
        <span key={front.id} className="mr-2 inline-block">
          {front.name} <span className="figure">{percent(area)} %</span>
        </span>
      ))}
    </Fact>
  );
}
