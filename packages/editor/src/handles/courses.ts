/** Courses of light trails on the picture: their places are dragged; a double click on a line adds one, on a place takes it away. */
import { type PictureLayer, type Point, trailsValues } from '@tazzel/core';
import type { SessionStore } from '../session.ts';
import { type Handle, type HandleSet, linePath, nearestPiece, tenths } from './define.ts';

export function courseHandles(layer: PictureLayer, session: SessionStore): HandleSet | null {
  const { courses } = trailsValues(layer);
  const places = courses.flatMap((path, course) => path.map((at, place) => ({ course, place, at })));
  if (places.length === 0) return null;
  const set = (next: readonly (readonly Point[])[], gesture: string) => void session.actions.edit({ type: 'set-params', layerId: layer.id, params: { courses: next } }, gesture);
  return {
    key: layer.id,
    layerId: layer.id,
    label: 'Handles of the courses',
    handles: places.map(({ course, place, at }): Handle => ({ label: `Course ${course + 1}, place ${place + 1}`, at, look: place === 0 ? 'square' : 'round' })),
    outline: (seen) => courses.map((_, k) => linePath(seen.filter((__, i) => places[i].course === k))).join(''),
    move: (handle, to, gesture) => {
      const { course, place } = places[handle];
      set(courses.with(course, courses[course].with(place, [tenths(to[0]), tenths(to[1])])), gesture);
    },
    doubleClick: (handle, gesture) => {
      const { course, place } = places[handle];
      if (courses[course].length > 2) set(courses.with(course, courses[course].toSpliced(place, 1)), gesture);
    },
    insert: (at, gesture) => {
      const pieces = courses.flatMap((path, course) => path.slice(1).map((to, i) => ({ course, after: i + 1, ends: [path[i], to] as const })));
      const nearest = pieces[nearestPiece(pieces.map(({ ends }) => ends), at)];
      if (nearest) set(courses.with(nearest.course, courses[nearest.course].toSpliced(nearest.after, 0, [tenths(at[0]), tenths(at[1])])), gesture);
    },
  };
}
