/** How light is spread in the picture or in one layer, drawn from all pixels at one level. */
import { type ChannelMeasure, type Layer, type Measure, MID_GREY, PERCENTS, type PlanOptions, type Scale, STOPS, type TazzelDocument, type Zone } from '@tazzel/core';
import { useState } from 'react';
import { questions, useAnswer } from '../answers.ts';
import { CHANNEL_INKS, fullestOf } from '../ui/bins.ts';
import { Choice, type ChoiceOption } from '../ui/choice.tsx';
import { Fact } from '../ui/section.tsx';

const [WIDTH, HEIGHT, FOOT] = [256, 84, 13];
type Subject = 'picture' | 'mask' | 'layer';

/** Of the picture, within the layer’s mask, or of the layer alone. */
export function Histogram({ document, layer, zone }: { document: TazzelDocument; layer: Layer; zone: Zone }) {
  const [subject, setSubject] = useState<Subject>('picture');
  const [scale, setScale] = useState<Scale>('picture');
  const subjects: readonly ChoiceOption<Subject>[] = [
    { value: 'picture', label: 'The picture' },
    ...(layer.mask?.enabled ? [{ value: 'mask' as const, label: 'Inside its mask' }] : []),
    ...(layer.kind === 'correction' ? [] : [{ value: 'layer' as const, label: 'This layer alone' }]),
  ];
  const measured = subjects.some(({ value }) => value === subject) ? subject : 'picture';
  const alone = measured === 'layer';
  const options: PlanOptions = alone ? { only: layer.id } : {};
  const mask = measured === 'mask' ? layer.mask : null;
  // Light ends at the tone line: what stands over it is measured in picture values.
  const shown: Scale = alone && zone === 'picture' ? 'picture' : scale;
  const { data, error, isFetching } = useAnswer(questions.measure(document, options, shown, mask), { keeps: (earlier) => earlier.at(-1) === shown });
  return (
    <>
      <div className="mb-1.5 grid grid-cols-2 gap-1.5">
        <Choice label="What is measured" value={measured} options={subjects} onChange={setSubject} />
        <Choice
          label="In which numbers"
          value={shown}
          options={[{ value: 'picture', label: 'Picture values', hint: 'Codes from 0 to 255, over the tone line' }, ...(alone && zone === 'picture' ? [] : [{ value: 'light' as const, label: 'Light', hint: 'Stops around mid grey (0.18), under the tone line' }])]}
          onChange={setScale}
        />
      </div>
      {error && <p className="text-warn">{error.message}</p>}
      {data && data.pixels === 0 && <p className="text-faint">There is nothing to measure.</p>}
      {data && data.pixels > 0 && <Drawing measure={data} scale={shown} isOld={isFetching} />}
      {!data && !error && <p className="text-faint">Measuring …</p>}
    </>
  );
}

/** Where the drawing ends at the top. */
const ceilingOf = ({ bins }: ChannelMeasure): number => Math.max(1, fullestOf(bins) * 1.15);

/** The bins as a line over the base of the drawing. */
const outline = (bins: readonly number[], ceiling: number) => bins.map((count, i) => `${i === 0 ? 'M' : 'L'}${((i + 0.5) / bins.length) * WIDTH} ${HEIGHT - Math.min(1, count / ceiling) * HEIGHT}`).join('');

const channels = [
  { name: 'red', sign: 'R', stroke: CHANNEL_INKS.red, dash: undefined },
  { name: 'green', sign: 'G', stroke: CHANNEL_INKS.green, dash: '3 1.5' },
  { name: 'blue', sign: 'B', stroke: CHANNEL_INKS.blue, dash: '1.5 1.5' },
] as const;

function Drawing({ measure, scale, isOld }: { measure: Measure; scale: Scale; isOld: boolean }) {
  const { luminance, pixels } = measure;
  const ceiling = Math.max(...[luminance, measure.red, measure.green, measure.blue].map(ceilingOf));
  const at = (percent: (typeof PERCENTS)[number]) => luminance.percentiles[PERCENTS.indexOf(percent)];
  const show = (value: number) => (scale === 'picture' ? String(Math.round(Math.min(1, Math.max(0, value)) * 255)) : value.toPrecision(3).replace('-', '−'));
  const marks = scale === 'picture' ? [0, 64, 128, 192, 255].map((code) => ({ x: (code / 255) * WIDTH, label: String(code) })) : [-8, -4, 0, 4].map((stop) => ({ x: ((stop - STOPS.least) / (STOPS.most - STOPS.least)) * WIDTH, label: stop === 0 ? 'grey' : `${stop > 0 ? '+' : '−'}${Math.abs(stop)} EV` }));
  const share = (count: number) => `${((100 * count) / pixels).toFixed(count === 0 || count / pixels >= 0.001 ? 1 : 3)} %`;
  const ends = (bin: 0 | -1) => Math.max(...channels.map(({ name }) => measure[name].bins.at(bin) ?? 0));
  const white = scale === 'picture' ? ends(-1) : Math.max(...channels.map(({ name }) => measure[name].bins.reduce((sum, count, i) => (i >= (-STOPS.least + Math.log2(1 / MID_GREY)) * STOPS.each ? sum + count : sum), 0)));
  return (
    <figure className={isOld ? 'opacity-80' : ''}>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT + FOOT}`} className="block w-full" role="img" aria-label={`Histogram of ${pixels} pixels, the middle one at ${show(at(50))}`} data-testid="histogram">
        <defs>
          <pattern id="histogram-hatch" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line x1="0" y1="0" x2="0" y2="4" className="stroke-faint" strokeWidth="1.2" />
          </pattern>
        </defs>
        {marks.map(({ x, label }) => (
          <g key={label}>
            <line x1={x} x2={x} y1={0} y2={HEIGHT + 3} className="stroke-hair" strokeWidth="0.75" />
            <text x={Math.min(WIDTH - 1, Math.max(1, x))} y={HEIGHT + FOOT - 1} textAnchor={x < 2 ? 'start' : x > WIDTH - 2 ? 'end' : 'middle'} className="fill-faint font-mono text-[9px]">
              {label}
            </text>
          </g>
        ))}
        <path d={`${outline(luminance.bins, ceiling)}L${WIDTH} ${HEIGHT}L0 ${HEIGHT}Z`} fill="url(#histogram-hatch)" className="stroke-ink" strokeWidth="0.75" />
        {channels.map(({ name, stroke, dash }) => (
          <path key={name} d={outline(measure[name].bins, ceiling)} fill="none" stroke={stroke} strokeWidth="1" strokeDasharray={dash} />
        ))}
        <line x1={0} x2={WIDTH} y1={HEIGHT} y2={HEIGHT} className="stroke-ink" strokeWidth="1" />
        <line x1={medianAt(at(50), scale)} x2={medianAt(at(50), scale)} y1={HEIGHT - 6} y2={HEIGHT} className="stroke-ink" strokeWidth="2" />
      </svg>
      <figcaption>
        <p className="narrow flex gap-3 text-[11px] text-faint">
          <span>hatched: luminance</span>
          {channels.map(({ name, sign, stroke, dash }) => (
            <span key={name} className="inline-flex items-center gap-1">
              <svg width="14" height="4" aria-hidden>
                <line x1="0" x2="14" y1="2" y2="2" stroke={stroke} strokeWidth="1.5" strokeDasharray={dash} />
              </svg>
              {sign}
            </span>
          ))}
        </p>
        <dl className="mt-1">
          <Fact label="Middle">
            <span className="figure">{show(at(50))}</span>, half of it {show(at(25))} to {show(at(75))}
          </Fact>
          <Fact label="Range">
            <span className="figure">{show(at(0.1))}</span> to <span className="figure">{show(at(99.9))}</span>, at most {show(luminance.max)}
          </Fact>
          <Fact label="At the ends">
            black <span className="figure">{share(ends(0))}</span>, {scale === 'picture' ? 'white' : 'beyond white'} <span className="figure">{share(white)}</span>
          </Fact>
        </dl>
      </figcaption>
    </figure>
  );
}

function medianAt(value: number, scale: Scale): number {
  if (scale === 'picture') return Math.min(1, Math.max(0, value)) * WIDTH;
  if (!(value > 0)) return 0;
  return Math.min(1, Math.max(0, (Math.log2(value / MID_GREY) - STOPS.least) / (STOPS.most - STOPS.least))) * WIDTH;
}
