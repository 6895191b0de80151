import { useQuery } from '@tanstack/react-query';
import type { Material } from '@tazzel/core';
import { percent } from '../schedules/material-schedule.tsx';
import { Fact } from '../ui/section.tsx';
import { useDocument, useWorkspace } from '../workspace/context.ts';

/** Where a material is seen through glass or in mirrors, if the render says so. */
export function Behind({ material }: { material: Material }) {
  const { engine } = useWorkspace();
  const document = useDocument();
  const { data } = useQuery({ queryKey: ['behind', document.id, material.id, document.sources.map(({ file }) => file.hash).join()], queryFn: () => engine.seenBehind(document, material), staleTime: Number.POSITIVE_INFINITY, retry: false });
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
