/** The picture in figures: how light is spread, from left to right, by channels, by colour. */
import { binCount, binOf, findLayer, MID_GREY, type Scale, SCOPE_COLUMNS, SCOPE_SIDE, type Scopes as Counts, type Zone } from '@tazzel/core';
import { ChevronDown, ChevronUp } from 'lucide-react';
import { memo, useEffect, useRef, useState } from 'react';
import { questions, useAnswer } from '../answers.ts';
import { keepSetting, setting } from '../storage/database.ts';
import { IconButton } from '../ui/button.tsx';
import { Choice, type ChoiceOption } from '../ui/choice.tsx';
import { Section } from '../ui/section.tsx';
import { useDocument } from '../workspace/context.ts';
import { Histogram } from './histogram.tsx';

const SCOPES = [
  { value: 'histogram', label: 'Histogram', hint: 'How many pixels have which value' },
  { value: 'waveform', label: 'Waveform', hint: 'Luminance from the left edge of the picture to the right' },
  { value: 'parade', label: 'Parade', hint: 'Red, green and blue beside each other' },
  { value: 'vectorscope', label: 'Vectorscope', hint: 'Colours: their hue around the middle, their strength away from it' },
] as const satisfies readonly ChoiceOption<string>[];
type Scope = (typeof SCOPES)[number]['value'];

/** Folded it measures nothing; which is open is remembered. */
export const Scopes = memo(function Scopes({ layerId, zone }: { layerId: string; zone: Zone }) {
  const [isOpen, setOpen] = useState(false);
  const [scope, setScope] = useState<Scope>('histogram');
  useEffect(() => void setting('scopes', false).then(setOpen), []);
  useEffect(() => void setting<Scope>('scope', 'histogram').then(setScope), []);
  const toggle = () => {
    setOpen(!isOpen);
    keepSetting('scopes', !isOpen);
  };
  const choose = (next: Scope) => {
    setScope(next);
    keepSetting('scope', next);
  };
  return (
    <Section
      title="Scopes"
      action={
        <IconButton label={isOpen ? 'Fold the scopes' : 'Open the scopes'} aria-expanded={isOpen} onClick={toggle}>
          {isOpen ? <ChevronUp size={13} aria-hidden /> : <ChevronDown size={13} aria-hidden />}
        </IconButton>
      }
    >
      {isOpen && (
        <>
          <Choice label="Scope" value={scope} options={SCOPES} onChange={choose} className="mb-1.5 w-full" />
          {scope === 'histogram' ? <OfLayer layerId={layerId} zone={zone} /> : <OfPicture scope={scope} />}
        </>
      )}
    </Section>
  );
});

function OfLayer({ layerId, zone }: { layerId: string; zone: Zone }) {
  const document = useDocument();
  const layer = findLayer(document, layerId)?.layer;
  return layer ? <Histogram document={document} layer={layer} zone={zone} /> : null;
}

function OfPicture({ scope }: { scope: Exclude<Scope, 'histogram'> }) {
  const document = useDocument();
  const [scale, setScale] = useState<Scale>('picture');
  // A vectorscope of light is one of the same picture, decoded.
  const asked = scope === 'vectorscope' ? 'picture' : scale;
  const { data, error } = useAnswer(questions.scopes(document, asked), { keeps: (earlier) => earlier.at(-1) === asked });
  return (
    <>
      <Choice
        label="In which numbers"
        value={scale}
        options={[{ value: 'picture', label: scope === 'vectorscope' ? 'Encoded' : 'Picture values' }, { value: 'light', label: scope === 'vectorscope' ? 'Linear' : 'Light, in stops' }]}
        onChange={setScale}
        className="mb-1.5 w-full"
      />
      {error && <p className="text-warn">{error.message}</p>}
      {data && (scope === 'vectorscope' ? <Vectorscope counts={scale === 'light' ? data.linear : data.encoded} /> : <Waveform counts={data} scale={asked} isParade={scope === 'parade'} />)}
      {!data && !error && <p className="text-faint">Measuring …</p>}
    </>
  );
}

const WAVE_HEIGHT = 144;
/** Channels as light adds them up. */
const RED = [1, 0.25, 0.2] as const;
const GREEN = [0.25, 0.95, 0.35] as const;
const BLUE = [0.35, 0.5, 1] as const;
const WHITE = [0.9, 0.9, 0.9] as const;

/** Brightness of a cell: counts differ by thousands, so it grows with their logarithm. */
const glow = (count: number, most: number) => (count === 0 ? 0 : 0.18 + (0.82 * Math.log1p(count)) / Math.log1p(most));

function Waveform({ counts, scale, isParade }: { counts: Counts; scale: Scale; isParade: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const width = isParade ? SCOPE_COLUMNS * 3 : SCOPE_COLUMNS;
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    const { values } = counts;
    const picture = context.createImageData(width, WAVE_HEIGHT);
    const traces = isParade ? ([[counts.red, RED], [counts.green, GREEN], [counts.blue, BLUE]] as const) : ([[counts.luminance, WHITE]] as const);
    for (const [n, [trace, ink]] of traces.entries()) {
      const rows = new Uint32Array(SCOPE_COLUMNS * WAVE_HEIGHT);
      for (let x = 0; x < SCOPE_COLUMNS; x++) for (let value = 0; value < values; value++) rows[(WAVE_HEIGHT - 1 - Math.floor((value * WAVE_HEIGHT) / values)) * SCOPE_COLUMNS + x] += trace[x * values + value];
      const most = rows.reduce((a, b) => Math.max(a, b), 1);
      for (let y = 0; y < WAVE_HEIGHT; y++) {
        for (let x = 0; x < SCOPE_COLUMNS; x++) {
          const light = glow(rows[y * SCOPE_COLUMNS + x], most);
          const to = (y * width + n * SCOPE_COLUMNS + x) * 4;
          for (let c = 0; c < 3; c++) picture.data[to + c] = 255 * ink[c] * light;
          picture.data[to + 3] = 255;
        }
      }
    }
    context.putImageData(picture, 0, 0);
  }, [counts, isParade, width]);
  // Where some values lie, as a share from the top.
  const at = (value: number) => 100 * (1 - (binOf(value, scale) + 0.5) / binCount(scale));
  const marks = scale === 'picture' ? [0, 64, 128, 192, 255].map((code) => ({ label: String(code), top: at(code / 255) })) : [-8, -4, 0, 4].map((stop) => ({ label: stop === 0 ? 'grey' : `${stop > 0 ? '+' : '−'}${Math.abs(stop)}`, top: at(MID_GREY * 2 ** stop) }));
  return (
    <figure className="relative" aria-label={isParade ? 'Parade of the channels' : 'Waveform of luminance'}>
      <canvas ref={canvas} width={width} height={WAVE_HEIGHT} className="block h-36 w-full bg-black" data-testid="scope" aria-hidden />
      {marks.map(({ label, top }) => (
        <span key={label} className="figure pointer-events-none absolute left-0 w-full border-t border-white/25 pl-0.5 text-[9px] leading-none text-white/80" style={{ top: `${top}%` }}>
          {label}
        </span>
      ))}
    </figure>
  );
}

const NAMED = [
  { label: 'R', cb: -0.1146, cr: 0.5 },
  { label: 'Y', cb: -0.5, cr: 0.0458 },
  { label: 'G', cb: -0.3854, cr: -0.4542 },
  { label: 'C', cb: 0.1146, cr: -0.5 },
  { label: 'B', cb: 0.5, cr: -0.0458 },
  { label: 'M', cb: 0.3854, cr: 0.4542 },
] as const;

function Vectorscope({ counts }: { counts: Uint32Array }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    const picture = context.createImageData(SCOPE_SIDE, SCOPE_SIDE);
    const most = counts.reduce((a, b) => Math.max(a, b), 1);
    for (let y = 0; y < SCOPE_SIDE; y++) {
      for (let x = 0; x < SCOPE_SIDE; x++) {
        const light = glow(counts[y * SCOPE_SIDE + x], most);
        const [cb, cr] = [(x + 0.5) / SCOPE_SIDE - 0.5, 0.5 - (y + 0.5) / SCOPE_SIDE];
        // Each cell in its own colour, at half the light.
        const rgb = [0.5 + 1.5748 * cr, 0.5 - 0.1873 * cb - 0.4681 * cr, 0.5 + 1.8556 * cb];
        const to = (y * SCOPE_SIDE + x) * 4;
        for (let c = 0; c < 3; c++) picture.data[to + c] = 255 * light * Math.min(1, Math.max(0, 0.25 + 0.75 * rgb[c]));
        picture.data[to + 3] = 255;
      }
    }
    context.putImageData(picture, 0, 0);
  }, [counts]);
  return (
    <figure className="relative mx-auto aspect-square w-full max-w-[240px] bg-black" aria-label="Vectorscope">
      <canvas ref={canvas} width={SCOPE_SIDE} height={SCOPE_SIDE} className="block h-full w-full" data-testid="scope" aria-hidden />
      <svg viewBox="0 0 100 100" className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
        <path d="M0 50H100M50 0V100" className="fill-none stroke-white/25 [stroke-width:0.4px]" />
        <circle cx="50" cy="50" r="25" className="fill-none stroke-white/25 [stroke-width:0.4px]" />
        {NAMED.map(({ label, cb, cr }) => (
          <g key={label}>
            <rect x={48.5 + cb * 100 * 0.75} y={48.5 - cr * 100 * 0.75} width="3" height="3" className="fill-none stroke-white/60 [stroke-width:0.4px]" />
            <text x={50 + cb * 100 * 0.75 + 3} y={50 - cr * 100 * 0.75 - 2} className="fill-white/80 text-[5px]">
              {label}
            </text>
          </g>
        ))}
      </svg>
    </figure>
  );
}
