/** Light over time: which mix each frame of a short run shows. */
import type { LightFrames, LightMix, TazzelDocument } from '../model/model.ts';
import { smoothNoise } from '../noise.ts';
import { blended, findScenario, groupsOf, settingOf, withMix, withSetting } from './board.ts';

/** Trembles of a flickering light in a second. Common practice, no published source. */
const TREMBLES = 9;

/** How long the run is: until the last scenario is reached. */
export const secondsOf = ({ keys }: LightFrames): number => keys.at(-1)?.seconds ?? 0;
/** The frames of a run: its first and its last moment are among them. */
export const frameCount = (frames: LightFrames): number => (frames.keys.length === 0 ? 0 : Math.floor(secondsOf(frames) * frames.perSecond + 1e-6) + 1);

/** The mix at a moment, with what flickers; null where no scenario is set. */
export function mixAt(document: Pick<TazzelDocument, 'sources' | 'light'>, seconds: number): LightMix | null {
  const { keys, seed } = document.light.frames;
  const mixOf = (id: string) => findScenario(document, id)?.mix ?? [];
  const next = keys.findIndex((key) => key.seconds > seconds);
  const at = next < 0 ? keys.length - 1 : next - 1;
  if (keys.length === 0) return null;
  const [before, after] = [keys[Math.max(0, at)], keys[at + 1]];
  const isOnTheWay = at >= 0 && after !== undefined && after.passage === 'fade';
  const mix = isOnTheWay ? blended(document, mixOf(before.scenarioId), mixOf(after.scenarioId), (seconds - before.seconds) / (after.seconds - before.seconds)) : mixOf(before.scenarioId);
  return groupsOf(document).reduce<LightMix>((made, { id }, i) => {
    const values = settingOf(made, id);
    if (!values.on || values.flickerPercent === 0) return made;
    // Light is taken away and given back evenly around what it is set to; each group trembles by itself.
    const tremble = 2 * smoothNoise(seconds * TREMBLES, i * 17.3, seed * 7.1) - 1;
    return withSetting(made, id, { ...values, intensityStops: values.intensityStops + Math.log2(Math.max(0.02, 1 + (tremble * values.flickerPercent) / 100)) });
  }, mix);
}

/** The document as a frame shows it, counted from 0. */
export function frameDocument(document: TazzelDocument, frame: number): TazzelDocument {
  const mix = mixAt(document, frame / document.light.frames.perSecond);
  return mix === null ? document : withMix(document, mix);
}
