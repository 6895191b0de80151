/** A first job, step by step: what to do, where, and how it shows that it was done. */
import { layersInOrder, type TazzelDocument } from '@tazzel/core';
import type { Session } from './session.ts';
import type { StageId } from './stages.ts';

/** What a step looks at. */
export type Moment = Pick<Session, 'document' | 'compare' | 'focus'>;

export interface JobStep {
  readonly id: string;
  readonly stage: StageId;
  readonly title: string;
  readonly words: string;
  /** @param then how it was when the step began */
  readonly isDone: (now: Moment, then: Moment) => boolean;
}

const layersOf = (document: TazzelDocument) => layersInOrder(document).map(({ layer }) => layer);
const ofType = (document: TazzelDocument, type: string) => layersOf(document).filter((layer) => layer.kind === 'picture' && layer.type === type);
/** Some layer of a kind is there now that was not, or was another. */
const hasNew = (type: string) => (now: Moment, then: Moment) => {
  const before = new Set<unknown>(ofType(then.document, type));
  return ofType(now.document, type).some((layer) => !before.has(layer));
};

export const firstJob: readonly JobStep[] = [
  {
    id: 'before',
    stage: 'build-up',
    title: 'See what was rendered',
    words: 'The strip below reads from the base, as rendered, to the finish. Press C, or “Before” over the picture, to see the base alone. Press it again to come back.',
    isDone: (now) => now.compare !== 'off',
  },
  {
    id: 'switch',
    stage: 'build-up',
    title: 'Judge what a layer does',
    words: 'Switch a card of the strip off and on by its box, or select it and press O. Everything stays as it is underneath: nothing is ever baked.',
    isDone: (now, then) => {
      const before = new Map(layersOf(then.document).map((layer) => [layer.id, layer.visible]));
      return layersOf(now.document).some(({ id, visible }) => before.has(id) && before.get(id) !== visible);
    },
  },
  {
    id: 'surface',
    stage: 'surfaces',
    title: 'Correct one material',
    words: 'Move over the picture: materials are named as you go. Click the brick, then set its saturation or hue at the right. Only the brick changes, exact at its edges.',
    isDone: (now, then) => now.focus.kind === 'material' && now.document !== then.document && now.document.buildUp !== then.document.buildUp,
  },
  {
    id: 'light',
    stage: 'light',
    title: 'Make it evening',
    words: 'The render came with its light in groups. Choose “Mix the light”, then load a mix, or move the stops of one group: sun, sky, lamps. No pixel is rendered again.',
    isDone: (now, then) => now.document.light !== then.document.light,
  },
  {
    id: 'sky',
    stage: 'sky',
    title: 'Put another sky behind it',
    words: 'Choose a sky from the shelf. Horizon and sun follow the camera, and no rim of the old sky is left around leaves.',
    isDone: hasNew('sky'),
  },
  {
    id: 'people',
    stage: 'entourage',
    title: 'Let somebody walk there',
    words: 'Take somebody from the shelf and click the ground where they should stand. They have the size that they have there, and the light.',
    isDone: hasNew('figures'),
  },
  {
    id: 'lens',
    stage: 'lens',
    title: 'As a camera would see it',
    words: 'Choose “Evening glow” under “Together”: lamps and windows glow, corners fall off. It is a group; take it apart as you like.',
    isDone: (now, then) => layersOf(now.document).length > layersOf(then.document).length,
  },
  {
    id: 'wipe',
    stage: 'build-up',
    title: 'Compare',
    words: 'Press W and drag the line over the picture: at one side what was rendered, at the other what you made of it.',
    isDone: (now) => now.compare === 'wipe',
  },
  {
    id: 'deliver',
    stage: 'deliver',
    title: 'Deliver it',
    words: 'Choose a format and “Keep in the list”. “As one zip” makes all of the list, of each scheme, in one go. “Publish for review” makes a link for your client.',
    isDone: (now, then) => now.document.deliveries.length > then.document.deliveries.length,
  },
];

/** The first step that is not done. */
export const nextStep = (done: ReadonlySet<string>): JobStep | null => firstJob.find(({ id }) => !done.has(id)) ?? null;
