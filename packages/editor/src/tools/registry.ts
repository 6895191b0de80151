/** All tools. */
import { brush } from './brush.ts';
import { course } from './course.ts';
import { curve } from './curve.ts';
import { holdTool } from './hold.ts';
import type { ToolId } from '../session.ts';
import type { Tool } from './define.ts';
import { lines } from './lines.ts';
import { pick } from './pick.ts';
import { sampler } from './sampler.ts';
import { select } from './select.ts';
import { shadow } from './shadow.ts';
import { stand } from './stand.ts';

const tools: { readonly [K in ToolId]: Tool } = { select, brush, pick, course, curve, lines, shadow, sampler, stand, hold: holdTool };

export const toolById = (id: ToolId): Tool => tools[id];
