import { type PictureLayer, type Point, trailsValues } from '@tazzel/core';
import { courseHandles, drawCourse, endCourse } from '@tazzel/editor';
import { ArrowLeftRight, Spline, Trash2 } from 'lucide-react';
import { Button, IconButton } from '../ui/button.tsx';
import { useActions, useSession, useWorkspace } from '../workspace/context.ts';
import type { LayerKind } from './kind.ts';
import { LayerFields } from './layer-fields.tsx';

/** The courses one by one, then what drives along them. */
function TrailFields({ layer }: { layer: PictureLayer }) {
  const { session } = useWorkspace();
  const actions = useActions();
  const isDrawing = useSession((state) => state.tool === 'course');
  const { courses } = trailsValues(layer);
  const set = (next: readonly (readonly Point[])[]) => actions.edit({ type: 'set-params', layerId: layer.id, params: { courses: next } });
  return (
    <>
      <ul aria-label="Courses" className="mb-1 max-h-32 overflow-y-auto border empty:hidden">
        {courses.map((course, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: courses are known by their order
          <li key={i} className="flex items-center gap-1 border-b px-1 last:border-b-0">
            <span className="min-w-0 flex-1 truncate py-0.5">Course {i + 1}</span>
            <span className="figure text-faint">{course.length} places</span>
            <IconButton label={`Turn course ${i + 1} round`} className="!size-5" onClick={() => set(courses.with(i, course.toReversed()))}>
              <ArrowLeftRight size={12} aria-hidden />
            </IconButton>
            <IconButton label={`Take course ${i + 1} away`} className="!size-5" onClick={() => (courses.length === 1 ? actions.edit({ type: 'remove-layer', layerId: layer.id }) : set(courses.toSpliced(i, 1)))}>
              <Trash2 size={12} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
      {isDrawing ? (
        <p role="status" className="mb-1 flex items-center gap-2 text-[12px]">
          <span className="min-w-0 flex-1">Click where the course begins, where it turns, where it ends; a double click ends it.</span>
          <Button onClick={() => endCourse(session)}>Done</Button>
        </p>
      ) : (
        <Button className="mb-1" onClick={() => drawCourse(session)}>
          <Spline size={13} aria-hidden /> Draw {courses.length === 0 ? 'a' : 'another'} course
        </Button>
      )}
      <LayerFields layer={layer} except={['courses']} />
    </>
  );
}

export const trailsKind: LayerKind = { hatch: 'hatch-trails', Fields: TrailFields, handles: courseHandles };
