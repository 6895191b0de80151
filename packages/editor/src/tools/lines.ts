import { lineHandles } from '../handles/lines.ts';
import { clickOrPan, type Tool } from './define.ts';

/** While the lines of the camera are drawn: they are moved by their handles, the picture by everything else. */
export const lines: Tool = {
  id: 'lines',
  label: 'Lines of the camera',
  cursor: 'default',
  stages: ['elements'],
  handles: lineHandles,
  press: (host, place) => clickOrPan(host, place, () => {}),
};
