/** Cutting a thing out of a photograph: one draws over what stays and what goes, and the edge is found between. */
import type { CutOutMark, Size, Source } from '@tazzel/core';
import { CutOut } from '@tazzel/engine';
import { useCallback, useEffect, useRef, useState } from 'react';
import { withProgress } from '../notices.tsx';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Sheet } from '../ui/dialog.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { useWorkspace } from '../workspace/context.ts';

/** Squares of what shows where the picture is taken away, in pixels, and their two greys. */
const [SQUARE, GREYS] = [8, [214, 236]] as const;
/** How much of what goes is still seen, so that one can mark it. */
const [SEEN, MARKED_ONLY] = [0.22, 0] as const;
const INITIAL_WIDTH = 3;

interface CutOutSheetProps {
  /** The picture to cut; null while nothing is cut. */
  readonly source: Source | null;
  readonly onClose: () => void;
  readonly onDone: (file: File) => void;
}

export const CutOutSheet = ({ source, onClose, onDone }: CutOutSheetProps) => (
  <Sheet open={source !== null} title="Cut out" wide="whole" onClose={onClose} description="Draw over what is to stay: a few lines along its middle are enough. Where too much or too little stays, draw once more.">
    {source && <Cutting key={source.id} source={source} onClose={onClose} onDone={onDone} />}
  </Sheet>
);

function Cutting({ source, onClose, onDone }: CutOutSheetProps & { readonly source: Source }) {
  const { engine } = useWorkspace();
  /** With what says that the sheet was closed. */
  const [{ work, closed }, setWork] = useState<{ work: CutOut | null; closed: AbortSignal | null }>({ work: null, closed: null });
  const [marks, setMarks] = useState<readonly CutOutMark[]>([]);
  const [stays, setStays] = useState(true);
  const [fromEdges, setFromEdges] = useState(true);
  const [isAlone, setAlone] = useState(false);
  const [width, setWidth] = useState(INITIAL_WIDTH);
  const [cut, setCut] = useState<Uint8Array | null>(null);
  const [problem, setProblem] = useState('');

  useEffect(() => {
    const ending = new AbortController();
    let opened: CutOut | null = null;
    CutOut.of(engine, source, ending.signal).then(
      (made) => {
        opened = made;
        if (ending.signal.aborted) made.end();
        else setWork({ work: made, closed: ending.signal });
      },
      (error: Error) => ending.signal.aborted || setProblem(error.message),
    );
    return () => {
      ending.abort();
      opened?.end();
    };
  }, [engine, source]);
  useEffect(() => {
    if (!work) return;
    const newer = new AbortController();
    work.cut(marks, fromEdges, { signal: newer.signal }).then(setCut, (error: Error) => newer.signal.aborted || setProblem(error.message));
    return () => newer.abort();
  }, [work, marks, fromEdges]);

  const share = cut ? cut.reduce((sum, is) => sum + is, 0) / cut.length : 0;
  const undo = useCallback(() => setMarks((all) => all.slice(0, -1)), []);
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || event.target instanceof HTMLInputElement) return;
      // Before it reaches the work below the sheet, which is not meant.
      event.preventDefault();
      event.stopPropagation();
      undo();
    };
    window.addEventListener('keydown', onKeyDown, { capture: true });
    return () => window.removeEventListener('keydown', onKeyDown, { capture: true });
  }, [undo]);
  const finish = () => {
    if (!work || !closed) return;
    withProgress('Cutting out', (report, signal) => work.write(marks, fromEdges, { signal: AbortSignal.any([signal, closed]), onProgress: report })).then(
      (parts) => onDone(new File(parts as BlobPart[], `${source.name.replace(/\.[a-z0-9]+$/i, '')}_cut-out.png`, { type: 'image/png' })),
      (error: Error) => closed.aborted || setProblem(error.message),
    );
  };
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <fieldset className="flex gap-1">
          <legend className="sr-only">What is drawn over</legend>
          <Button aria-pressed={stays} className="aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-sheet" onClick={() => setStays(true)}>
            Stays
          </Button>
          <Button aria-pressed={!stays} className="aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-sheet" title="With Alt, the other of the two is drawn" onClick={() => setStays(false)}>
            Goes
          </Button>
        </fieldset>
        <div className="w-56">
          <NumberField label="Brush" value={width} min={0.3} max={20} step={0.1} byFactors digits={1} unit="%" initial={INITIAL_WIDTH} help="Of the longer side of the picture" onChange={setWidth} />
        </div>
        <Check label="The edges of the picture go" checked={fromEdges} onChange={setFromEdges} />
        <Check label="Only what stays" checked={isAlone} onChange={setAlone} />
        <span className="flex-1" />
        <Button disabled={marks.length === 0} onClick={undo}>
          Undo
        </Button>
        <Button disabled={marks.length === 0} onClick={() => setMarks([])}>
          Start again
        </Button>
      </div>
      {work ? (
        <Canvas work={work} marks={isAlone ? [] : marks} cut={cut} seen={isAlone ? MARKED_ONLY : SEEN} stays={stays} width={width / 100} onMark={(mark) => setMarks((all) => [...all, mark])} />
      ) : (
        <p className="p-8 text-center text-faint">The picture is read …</p>
      )}
      {problem && (
        <p role="alert" className="text-warn">
          {problem}
        </p>
      )}
      <div className="flex items-center gap-2">
        <p role="status" className="flex-1 text-faint">
          {share > 0 ? <><span className="figure">{(100 * share).toFixed(1)} %</span> of the picture stays.</> : 'Nothing stays yet.'}
        </p>
        <Button onClick={onClose}>Cancel</Button>
        <Button look="main" disabled={share === 0} onClick={finish}>
          Cut out and stand up
        </Button>
      </div>
    </div>
  );
}

/** What stays as it is, and what goes paler over squares; lines as they were drawn. */
function painted({ pixels, size }: { pixels: ArrayBufferLike; size: Size }, cut: Uint8Array | null, seen: number): ImageData {
  const codes = new Uint8Array(pixels);
  const picture = new ImageData(size.width, size.height);
  // Before anything stays, one has to see what there is.
  const isEmpty = !cut?.includes(1);
  for (let i = 0; i < size.width * size.height; i++) {
    const grey = GREYS[(Math.floor((i % size.width) / SQUARE) + Math.floor(i / size.width / SQUARE)) % 2];
    const share = isEmpty || cut?.[i] ? 1 : seen;
    for (let c = 0; c < 3; c++) picture.data[i * 4 + c] = grey + (codes[i * 4 + c] - grey) * share;
    picture.data[i * 4 + 3] = 255;
  }
  return picture;
}

interface CanvasProps {
  readonly work: CutOut;
  readonly marks: readonly CutOutMark[];
  readonly cut: Uint8Array | null;
  readonly seen: number;
  readonly stays: boolean;
  readonly width: number;
  readonly onMark: (mark: CutOutMark) => void;
}

function Canvas({ work, marks, cut, seen, stays, width, onMark }: CanvasProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const ground = useRef<ImageData | null>(null);
  const drawn = useRef<CutOutMark | null>(null);
  const { size } = work.small;
  const side = Math.max(size.width, size.height);
  const draw = (more: CutOutMark | null) => {
    const context = canvas.current?.getContext('2d');
    if (!context || !ground.current) return;
    context.putImageData(ground.current, 0, 0);
    for (const mark of more ? [...marks, more] : marks) {
      const points = mark.points.map(([x, y]) => [x * side, y * side] as const);
      context.lineCap = context.lineJoin = 'round';
      context.lineWidth = Math.max(1, mark.width * side);
      context.strokeStyle = mark.stays ? 'rgb(255 255 255 / 0.55)' : 'rgb(0 0 0 / 0.55)';
      context.beginPath();
      context.moveTo(...points[0]);
      // The first again: a dab is a line of no length.
      for (const [x, y] of points) context.lineTo(x, y);
      context.stroke();
    }
  };
  useEffect(() => {
    ground.current = painted(work.small, cut, seen);
  }, [work, cut, seen]);
  useEffect(() => draw(drawn.current));
  const placeOf = (event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return [((event.clientX - box.x) / box.width) * (size.width / side), ((event.clientY - box.y) / box.height) * (size.height / side)] as const;
  };
  const end = () => {
    const mark = drawn.current;
    drawn.current = null;
    if (mark) onMark(mark);
  };
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label="The picture: draw over it"
      width={size.width}
      height={size.height}
      // As large as the sheet lets it be, in its own proportions.
      style={{ aspectRatio: `${size.width} / ${size.height}`, width: `min(100%, ${(62 * size.width) / size.height}vh)` }}
      className="mx-auto block cursor-crosshair touch-none border border-rule"
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        drawn.current = { stays: stays !== event.altKey, width, points: [placeOf(event)] };
        draw(drawn.current);
      }}
      onPointerMove={(event) => {
        if (!drawn.current) return;
        drawn.current = { ...drawn.current, points: [...drawn.current.points, placeOf(event)] };
        draw(drawn.current);
      }}
      onPointerUp={end}
      onPointerCancel={end}
    />
  );
}
