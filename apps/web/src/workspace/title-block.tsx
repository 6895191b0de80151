import { useStore } from 'zustand';
import { usePart, useSaveState, useViewport, useWorkspace } from './context.ts';

const light = (value: number) => (Math.abs(value) >= 100 ? value.toFixed(1) : value.toFixed(4)).replace('-', '−');
const NONE = '—';
/** The largest half float, and what renderers write where nothing is, say no distance. */
const BEYOND = 65_000;

/** As on a drawing: what this sheet is, and what lies under the pointer. */
export function TitleBlock() {
  const { pointer } = useWorkspace();
  const name = usePart((document) => document.name);
  const size = usePart((document) => document.size);
  const zoom = useViewport((state) => state.zoom);
  const { pixel, values, material, metres } = useStore(pointer);
  const averaged = values && values.level > 0 ? `mean of ${2 ** values.level} × ${2 ** values.level} px` : '';
  return (
    <section aria-label="Title block" className="flex min-w-0 flex-1 flex-col border-l border-ink bg-sheet text-[12px]">
      <dl className="grid flex-1 grid-cols-[66px_1fr] auto-rows-[minmax(0,1fr)]">
        <Row name="Document">
          <span className="truncate">{name}</span>
        </Row>
        <Row name="Size">
          <span className="figure">
            {size.width} × {size.height}
          </span>
          <span className="figure ml-auto text-faint" title="Zoom">
            {(zoom * 100).toFixed(zoom < 0.1 ? 1 : 0)} %
          </span>
        </Row>
        <Row name="Pixel">
          <span className="figure">{pixel ? `${pixel.x}, ${pixel.y}` : NONE}</span>
          <span className="ml-auto truncate text-faint">{pixel ? averaged : ''}</span>
        </Row>
        <Row name="Light" hint="Scene light under the tone line, linear">
          <Triple values={pixel && values ? values.light.slice(0, 3).map(light) : null} />
        </Row>
        <Row name="Picture" hint="The finished picture over the tone line, encoded to 8 bits">
          <Triple values={pixel && values ? values.codes.slice(0, 3).map(String) : null} />
        </Row>
        <Row name="Material">
          {material ? (
            <>
              <span aria-hidden className="size-2.5 shrink-0 border border-ink" style={{ background: `rgb(${material.chip.map((v) => v * 255).join(' ')})` }} />
              <span className="figure">{material.tag}</span>
              <span className="truncate">{material.name === material.tag ? '' : material.name}</span>
            </>
          ) : (
            <span className="text-faint">{NONE}</span>
          )}
          {metres !== null && (
            <span className="figure ml-auto shrink-0" title="Distance by the depth element">
              {metres >= BEYOND ? '∞' : metres < 100 ? metres.toFixed(1) : metres.toFixed(0)} m
            </span>
          )}
        </Row>
      </dl>
      <Foot />
    </section>
  );
}

/** Whether it is saved, what is wrong, whether something is still computed. */
function Foot() {
  const busy = useViewport((state) => state.busy);
  const problems = useViewport((state) => state.problems);
  const saved = useSaveState();
  return (
    <div className="flex h-6 items-center justify-between border-t border-ink px-2">
      <span role="status" className={saved.kind === 'failed' || problems.length > 0 ? 'truncate text-warn' : 'text-faint'} title={problems.join('\n')}>
        {problems.length > 0 ? `${problems.length === 1 ? 'A problem' : `${problems.length} problems`}: ${problems[0]}` : saved.kind === 'saved' ? 'Saved in this browser' : saved.kind === 'saving' ? 'Saving …' : 'Not saved'}
      </span>
      <span aria-hidden className={`figure text-faint ${busy ? '' : 'invisible'}`}>
        computing
      </span>
    </div>
  );
}

const Row = ({ name, hint, children }: { name: string; hint?: string; children: React.ReactNode }) => (
  <>
    <dt className="lettering flex items-center border-b pl-2 text-[10px] text-faint" title={hint}>
      {name}
    </dt>
    <dd className="flex min-w-0 items-center gap-1.5 border-b border-l px-2">{children}</dd>
  </>
);

const Triple = ({ values }: { values: readonly string[] | null }) =>
  values ? (
    <span className="figure grid w-full grid-cols-3 text-right">
      {values.map((value, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: red, green and blue have fixed places
        <span key={i}>{value}</span>
      ))}
    </span>
  ) : (
    <span className="text-faint">{NONE}</span>
  );
