/** Camera and sun of the place that the picture shows. */
import { angleOfView, CAMERA_ORIGINS, camera, cameraOf, horizonAt, type KeptValues, type PartAddress, type ParamTable, sun, sunDirection, sunOf, sunPlace, viewOfCamera } from '@tazzel/core';
import { cameraOfLines, firstLines, firstShadow, setLines, setShadow, shadowSun } from '@tazzel/editor';
import { Ruler, SunDim } from 'lucide-react';
import { ParamFields } from '../fields/param-fields.tsx';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Fold, Section } from '../ui/section.tsx';
import { useActions, useDocument, useSession, useWorkspace } from '../workspace/context.ts';

const pick = (params: ParamTable, names: readonly string[]): ParamTable => Object.fromEntries(names.map((name) => [name, params[name]]));
/** What one looks at first; everything else is folded away. */
const MAIN = pick(camera.params, ['focalMillimetres', 'sensorMillimetres', 'heightMetres']);
const STANCE = pick(camera.params, ['shiftY', 'shiftX', 'tiltDegrees', 'rollDegrees', 'headingDegrees', 'eastMetres', 'southMetres', 'up']);
const EXPOSURE = pick(camera.params, ['focusMetres', 'fNumber', 'shutterSeconds', 'iso']);

export function SceneSection() {
  return (
    <>
      <CameraSection />
      <SunSection />
    </>
  );
}

function useParams(part: PartAddress['part']) {
  const actions = useActions();
  return (params: KeptValues, gesture?: string) => void actions.edit({ type: 'set-params', part, params }, gesture && `${part} ${gesture}`);
}

function CameraSection() {
  const document = useDocument();
  const actions = useActions();
  const lines = useSession((state) => state.cameraLines);
  const set = useParams('camera');
  const known = document.camera;
  const values = known && cameraOf(known);
  const begin = () => {
    actions.set({ tool: 'lines', shadow: null, cameraLines: firstLines(document.size, values) });
  };
  const end = () => actions.set({ tool: 'select', cameraLines: null });
  return (
    <Section
      title="Camera"
      action={
        known && (
          <Button className="h-5 text-[11px]" onClick={() => actions.edit({ type: 'set-camera', params: null })}>
            Forget
          </Button>
        )
      }
    >
      {!known && <p className="mb-1.5 text-faint">The files do not say how the camera stood. Heights, distances, sky, air and figures need it: draw lines over edges of the building, or set it by hand.</p>}
      {known && values && (
        <>
          <p className="mb-1 text-faint">
            {CAMERA_ORIGINS[known.from]}: {angleOfView(values.sensorMillimetres, values.focalMillimetres).toFixed(1)}° wide, horizon at {horizonWords(horizonAt(viewOfCamera(values, document.size), document.size.width / 2), document.size.height)}.
          </p>
          <ParamFields params={MAIN} values={values} onChange={set} />
          <Fold title="Shift, tilt, place">
            <ParamFields params={STANCE} values={values} onChange={set} />
          </Fold>
          <Fold title="Focus and exposure">
            <ParamFields params={EXPOSURE} values={values} onChange={set} />
          </Fold>
        </>
      )}
      {lines ? (
        <LinesFields onEnd={end} />
      ) : (
        <div className="mt-1.5 flex flex-wrap gap-1.5">
          <Button onClick={begin}>
            <Ruler size={13} aria-hidden /> Find it from lines
          </Button>
          {!known && <Button onClick={() => actions.edit({ type: 'set-camera', params: {} })}>Set it by hand</Button>}
        </div>
      )}
    </Section>
  );
}

const horizonWords = (y: number, height: number): string => (!Number.isFinite(y) ? 'no height' : y < 0 ? 'above the picture' : y > height ? 'below the picture' : `${((y / height) * 100).toFixed(1)} % from the top`);

/** While lines are drawn: what to do, and why they describe no camera yet. */
function LinesFields({ onEnd }: { onEnd: () => void }) {
  const { session } = useWorkspace();
  const lines = useSession((state) => state.cameraLines);
  useDocument();
  if (!lines) return null;
  const found = cameraOfLines(session, lines);
  return (
    <div className="mt-1.5 border-l-2 border-accent pl-2">
      <p className="text-faint">Drag the two lines with square ends along two level edges that are parallel in the place, and those with round ends along two that are square to them; or the horizon by its end at the right.</p>
      {typeof found === 'string' && (
        <p role="alert" className="mt-1">
          {found}
        </p>
      )}
      <div className="flex items-center justify-between py-1">
        <Check label="Uprights are parallel" checked={lines.isUpright} onChange={(isUpright) => setLines(session, { ...lines, isUpright })} />
        <Button onClick={onEnd}>Done</Button>
      </div>
    </div>
  );
}

/** While a shadow is drawn: what to do, and why it says nothing of the sun yet. */
function ShadowFields() {
  const { session } = useWorkspace();
  const shadow = useSession((state) => state.shadow);
  const document = useDocument();
  const actions = useActions();
  if (!shadow) {
    return (
      <Button className="mt-1.5" onClick={() => actions.set({ tool: 'shadow', cameraLines: null, shadow: firstShadow(session) })}>
        <SunDim size={13} aria-hidden /> Find it from a shadow
      </Button>
    );
  }
  const found = shadowSun(session, shadow);
  const isByDate = document.sun !== null && sunOf(document.sun).place === 'date';
  return (
    <div className="mt-1.5 border-l-2 border-accent pl-2">
      <p className="text-faint">
        Drag the square end to the foot of something upright, the round one to the tip of its shadow on level ground{shadow.top && ', and the upper one to its top'}. {isByDate ? 'North is turned until the sun stands opposite to it.' : 'The sun stands opposite to it.'}
      </p>
      {typeof found === 'string' && (
        <p role="alert" className="mt-1">
          {found}
        </p>
      )}
      <div className="flex items-center justify-between py-1">
        <Check label="Its top is seen" checked={shadow.top !== null} onChange={(isSeen) => setShadow(session, { ...shadow, top: isSeen ? [shadow.foot[0], shadow.foot[1] * 0.7] : null })} />
        <Button onClick={() => actions.set({ tool: 'select', shadow: null })}>Done</Button>
      </div>
    </div>
  );
}

function SunSection() {
  const document = useDocument();
  const actions = useActions();
  const set = useParams('sun');
  const known = document.sun;
  const values = known && sunOf(known);
  return (
    <Section
      title="Sun"
      action={
        known && (
          <Button className="h-5 text-[11px]" onClick={() => actions.edit({ type: 'set-sun', params: null })}>
            Forget
          </Button>
        )
      }
    >
      {known && values ? (
        <>
          <p className="mb-1 text-faint">
            {known.from === 'file' ? 'From the file of the render' : 'Set by hand'}
            {values.place === 'date' && `: ${sunDirection(sunPlace(values)).altitudeDegrees.toFixed(1)}° above the horizon`}.
          </p>
          <ParamFields params={sun.params} values={values} onChange={set} />
        </>
      ) : (
        <>
          <p className="mb-1.5 text-faint">The files do not say where the sun stands.</p>
          <Button onClick={() => actions.edit({ type: 'set-sun', params: {} })}>Set it</Button>
        </>
      )}
      <ShadowFields />
    </Section>
  );
}
