import { shadowHandles } from '../handles/shadow.ts';
import { clickOrPan, type Tool } from './define.ts';

/** While a shadow is drawn: its ends are moved by their handles, the picture by everything else. */
export const shadow: Tool = {
  id: 'shadow',
  label: 'A shadow on the ground',
  cursor: 'default',
  stages: ['elements'],
  handles: shadowHandles,
  press: (host, place) => clickOrPan(host, place, () => {}),
};
