import { cameraOf, trailsLayerOf, trailsValues } from '@tazzel/core';
import { courseHandles } from '../handles/courses.ts';
import type { SessionStore } from '../session.ts';
import { clickOrPan, type PointerAt, type Tool, type ToolHost } from './define.ts';
import { surfaceHeight } from './ground.ts';

/** Takes the tool for another course. */
export const drawCourse = (session: SessionStore): void => session.actions.set({ tool: 'course', courseGoesOn: false });

/** The course ends with its last place; one that was only begun is taken back. */
export function endCourse(session: SessionStore): void {
  const { document, selectedLayerId } = session.getState();
  const layer = trailsLayerOf(document, selectedLayerId);
  const courses = layer ? trailsValues(layer).courses : [];
  session.actions.set({ tool: 'select', courseGoesOn: false });
  if (layer && courses.at(-1)?.length === 1) session.actions.edit(courses.length === 1 ? { type: 'remove-layer', layerId: layer.id } : { type: 'set-params', layerId: layer.id, params: { courses: courses.slice(0, -1) } });
}

async function placeOnCourse({ session, valuesAt, pixelAt, placeBehind }: ToolHost, { at: shown }: PointerAt): Promise<void> {
  const { document, selectedLayerId, courseGoesOn } = session.getState();
  const known = trailsLayerOf(document, selectedLayerId);
  const at = placeBehind(shown, known?.id);
  // The first place of the first course says how high the ground is.
  const surface = known || !pixelAt(at) ? null : await surfaceHeight({ valuesAt }, document, at);
  // What lies over the camera is no ground to drive on.
  const groundMetres = surface !== null && document.camera && surface < cameraOf(document.camera).heightMetres ? surface : null;
  const place = [Math.round(at[0] * 10) / 10, Math.round(at[1] * 10) / 10] as const;
  const isDone = session.actions.edit({ type: 'draw-course', at: place, goesOn: courseGoesOn && known !== null, ...(known ? { layerId: known.id } : {}), ...(groundMetres === null ? {} : { groundMetres }) });
  if (isDone) session.actions.set({ courseGoesOn: true });
}

/** Clicks wait for each other: the first one reads how high the ground is. */
let clicks: Promise<void> = Promise.resolve();

/** Each click is another place of a course on the ground; a double click on its last place ends it. */
export const course: Tool = {
  id: 'course',
  label: 'Draw a course',
  cursor: 'crosshair',
  stages: null,
  handles: (session) => {
    const { document, selectedLayerId } = session.getState();
    const layer = trailsLayerOf(document, selectedLayerId);
    const set = layer && courseHandles(layer, session);
    return set && { ...set, doubleClick: () => endCourse(session), insert: undefined };
  },
  press: (host, place) => clickOrPan(host, place, (released) => {
    // One that failed does not take the next one along.
    clicks = clicks.catch(() => {}).then(() => placeOnCourse(host, released));
  }),
};
