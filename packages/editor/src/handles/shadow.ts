/** A shadow on the ground, drawn on the picture: the sun stands opposite to it. */
import { cameraOf, type Point, type ShadowLine, sunOf, sunOfShadow, viewOfCamera, withShadow } from '@tazzel/core';
import type { SessionStore } from '../session.ts';
import { type HandleSet, linePath } from './define.ts';

const ENDS = ['foot', 'tip', 'top'] as const;
const LABELS = { foot: 'Foot of something upright', tip: 'Tip of its shadow', top: 'Its top' } as const;

/** Something upright in the middle of the ground, and its shadow. */
export function firstShadow({ getState }: SessionStore): ShadowLine {
  const { width, height } = getState().document.size;
  return { foot: [width * 0.5, height * 0.8], tip: [width * 0.62, height * 0.86], top: [width * 0.5, height * 0.55] };
}

/** What a shadow says of the sun, as one step of the history; a sentence if it says nothing. */
export function setShadow(session: SessionStore, shadow: ShadowLine, gesture?: string): void {
  session.actions.set({ shadow });
  const { document } = session.getState();
  const found = shadowSun(session, shadow);
  if (typeof found === 'string') return;
  const values = sunOf(document.sun ?? { from: 'hand', params: {} });
  if (document.sun) session.actions.edit({ type: 'set-params', part: 'sun', params: { ...withShadow(values, found) } }, gesture);
  else session.actions.edit({ type: 'set-sun', params: { ...withShadow(values, found) } }, gesture);
}

export function shadowSun({ getState }: SessionStore, shadow: ShadowLine): ReturnType<typeof sunOfShadow> {
  const { document } = getState();
  return document.camera ? sunOfShadow(viewOfCamera(cameraOf(document.camera), document.size), shadow) : 'The camera must be known first: where the ground lies follows from it.';
}

export function shadowHandles(session: SessionStore): HandleSet | null {
  const { shadow, document } = session.getState();
  if (!shadow) return null;
  const shown = ENDS.filter((end) => shadow[end] !== null);
  return {
    key: `shadow ${shown.join()}`,
    label: 'A shadow on the ground',
    handles: shown.map((end) => ({ label: LABELS[end], at: shadow[end] as Point, look: end === 'tip' ? 'round' : 'square' })),
    outline: (places) => linePath([places[0], places[1]]) + (places[2] ? linePath([places[0], places[2]]) : ''),
    move: (handle, to, gesture) => setShadow(session, { ...shadow, [shown[handle]]: to }, `${document.id} ${gesture}`),
  };
}
