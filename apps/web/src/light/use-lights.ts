import { groupsOf, type LightMeasures, mixedGroups, mixFigures, type MixFigures, settingFor, type Triple } from '@tazzel/core';
import { useDeferredValue, useEffect, useMemo } from 'react';
import { questions, useAnswer } from '../answers.ts';
import { useActions, useDocument } from '../workspace/context.ts';

export interface LightFigure {
  /** Of the picture's light, 0…1. */
  readonly share: number;
  /** Grain that it brings, as a share of the light that is seen where it lies. */
  readonly noise: number;
  readonly noiseAsRendered: number;
}

export interface LightFigures {
  readonly of: ReadonlyMap<string, LightFigure>;
  readonly noise: number;
  readonly noiseAsRendered: number;
}

const ALL: Triple = [1, 1, 1];

/** What is known of the mix on the board from the pixels of its groups: no picture is drawn for it. Null until they are measured. */
export function useLightFigures(): LightFigures | null {
  // The picture comes first: figures follow a slider when there is time.
  const document = useDeferredValue(useDocument());
  const answer = useAnswer(groupsOf(document).length > 0 ? questions.lights(document) : null);
  return useMemo(() => {
    if (!answer.data) return null;
    const { sourceIds, measures } = answer.data;
    const groups = new Map(mixedGroups(document).map(({ source, gain }) => [source.id, gain]));
    const gains = sourceIds.map((id) => groups.get(id) ?? ALL);
    const [now, before] = [figures(measures, gains), figures(measures, sourceIds.map(() => ALL))];
    return {
      of: new Map(sourceIds.map((id, i) => [id, { share: now.shares[i], noise: now.noise[i], noiseAsRendered: before.noise[i] }])),
      noise: now.totalNoise,
      noiseAsRendered: before.totalNoise,
    };
  }, [answer.data, document]);
}

const figures = (measures: LightMeasures, gains: readonly Triple[]): MixFigures => mixFigures(measures, gains);

/** The colours that lamps have as rendered are found once and kept with the document: mixes are made of them. */
export function useOwnColours(): void {
  const document = useDocument();
  const actions = useActions();
  const isKnown = groupsOf(document).every(({ id }) => document.light.own.some(({ sourceId }) => sourceId === id));
  const answer = useAnswer(isKnown ? null : questions.lights(document));
  useEffect(() => {
    const found = answer.data;
    if (!found) return;
    actions.learnLights(found.sourceIds.flatMap((sourceId, i) => (document.light.own.some((one) => one.sourceId === sourceId) ? [] : [{ sourceId, color: (found.measures.groups[i].own ?? ALL).map((value) => Math.round(value * 1e4) / 1e4) as unknown as Triple }])));
  }, [answer.data, document.light.own, actions]);
}

/** The setting that is heard of as watts: twice is +1 EV. */
export const stopsOfWatts = (watts: number): number => settingFor([watts, watts, watts], null).intensityStops;
