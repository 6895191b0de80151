/** Named states of the finish to return to, and places whose colours are watched. */
import { LIMITS } from '../../limits.ts';
import type { NamedState, Point, TazzelDocument } from '../../model/model.ts';
import { freshId } from '../../model/query.ts';
import { documentIn } from '../against.ts';
import { type Handlers, named, refuse } from './define.ts';

export type StateEdit =
  /** Keeps build-up, masks, tone line and light mix as they are now. */
  | { type: 'keep-state'; name: string }
  | { type: 'return-to-state'; stateId: string }
  | { type: 'rename-state'; stateId: string; name: string }
  | { type: 'remove-state'; stateId: string }
  | { type: 'set-samplers'; samplers: readonly Point[] };

const find = ({ states }: TazzelDocument, stateId: string): NamedState => states.find(({ id }) => id === stateId) ?? refuse(`There is no state ${stateId}.`);

export const stateEdits: Handlers<StateEdit> = {
  'keep-state': {
    label: 'Keep this state',
    apply: (document, { name }) => {
      if (document.states.length >= LIMITS.states) refuse(`A document keeps at most ${LIMITS.states} states. Remove one first.`);
      const { buildUp, masks, tone, light } = document;
      return { ...document, states: [...document.states, { id: freshId(document, 'state'), name: named(name, 'a state'), buildUp, masks, tone, mix: light.mix }] };
    },
  },
  'return-to-state': {
    label: 'Return to a state',
    apply: (document, { stateId }) => documentIn(document, find(document, stateId)),
  },
  'rename-state': {
    label: 'Rename state',
    apply: (document, { stateId, name }) => {
      const state = find(document, stateId);
      return { ...document, states: document.states.map((each) => (each === state ? { ...state, name: named(name, 'a state') } : each)) };
    },
  },
  'remove-state': {
    label: 'Remove state',
    apply: (document, { stateId }) => {
      const state = find(document, stateId);
      return { ...document, states: document.states.filter((each) => each !== state) };
    },
  },
  'set-samplers': {
    label: 'Colour samplers',
    apply: (document, { samplers }) => {
      if (samplers.length > LIMITS.samplers) refuse(`There are at most ${LIMITS.samplers} colour samplers. Remove one first.`);
      const { width, height } = document.size;
      return { ...document, samplers: samplers.map(([x, y]): Point => [Math.min(width - 1, Math.max(0, Math.floor(x))), Math.min(height - 1, Math.max(0, Math.floor(y)))]) };
    },
  },
};
