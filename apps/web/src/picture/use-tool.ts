import { type Gesture, panning, type PointerAt, type StageId, toolById, type Tool, type ToolHost } from '@tazzel/editor';
import { type PointerEvent, useMemo, useRef, useState } from 'react';
import { stageById } from '../stages/registry.ts';
import { useSession, useWorkspace } from '../workspace/context.ts';

/** A mouse has no pressure and says a half; it presses with all of it. */
const pressureOf = (event: { pointerType: string; pressure: number }) => (event.pointerType === 'mouse' || event.pressure === 0 ? 1 : event.pressure);

/** The tool that is held in a stage: one that the stage does not know is put away there. */
export function useHeldTool(stage: StageId): Tool {
  const wanted = useSession((state) => toolById(state.tool));
  return wanted.stages === null || wanted.stages.includes(stage) ? wanted : toolById('select');
}

/** The tool that is held in a stage, and what it makes of the events of the canvas. */
export function useTool(stage: StageId): { tool: Tool; isMoving: boolean; on: Pick<React.DOMAttributes<HTMLCanvasElement>, 'onPointerDown' | 'onPointerMove' | 'onPointerUp' | 'onPointerCancel'> } {
  const { engine, session, viewport, pointer } = useWorkspace();
  const tool = useHeldTool(stage);
  const gesture = useRef<Gesture | null>(null);
  const [isMoving, setMoving] = useState(false);
  const { pointsAtMaterials } = stageById[stage];
  const host = useMemo(
    (): ToolHost => ({
      session,
      pointsAtMaterials,
      pixelAt: ([x, y]) => viewport.pixelOf([x, y]),
      placeBehind: (at, layerId) => viewport.placeBehind(at, layerId),
      hoveredMaterialId: () => pointer.getState().material?.id ?? null,
      panBy: (dx, dy) => {
        setMoving(true);
        viewport.panBy(dx, dy);
      },
      probe: (document, x, y, around) => engine.probe(document, x, y, 0, { around }),
      valuesAt: (source, x, y) => engine.valuesAt(source, x, y),
      previewStroke: (stroke) => viewport.previewStroke(stroke),
      endStroke: (isKept) => viewport.endStroke(isKept),
    }),
    [session, viewport, pointer, engine, pointsAtMaterials],
  );
  const placeOf = (event: globalThis.PointerEvent, canvas: HTMLElement): PointerAt => {
    const box = canvas.getBoundingClientRect();
    return { at: viewport.pointAt(event.clientX - box.left, event.clientY - box.top), screen: [event.clientX, event.clientY], pressure: pressureOf(event), time: event.timeStamp, shift: event.shiftKey, alt: event.altKey, control: event.ctrlKey || event.metaKey };
  };
  const end = (finish: (open: Gesture) => void) => {
    const open = gesture.current;
    gesture.current = null;
    setMoving(false);
    if (open) finish(open);
  };
  return {
    tool,
    isMoving,
    on: {
      onPointerDown: (event: PointerEvent<HTMLCanvasElement>) => {
        if (event.button > 1 || gesture.current) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        const place = placeOf(event.nativeEvent, event.currentTarget);
        // The wheel's button moves the picture, whatever is held.
        gesture.current = event.button === 1 ? panning(host, place) : tool.press(host, place);
      },
      onPointerMove: (event: PointerEvent<HTMLCanvasElement>) => {
        const all = event.nativeEvent.getCoalescedEvents?.() ?? [];
        gesture.current?.move((all.length > 0 ? all : [event.nativeEvent]).map((each) => placeOf(each, event.currentTarget)));
      },
      onPointerUp: (event: PointerEvent<HTMLCanvasElement>) => {
        const place = placeOf(event.nativeEvent, event.currentTarget);
        end((open) => open.release(place));
      },
      onPointerCancel: () => end((open) => open.cancel()),
    },
  };
}
