import type { CameraDescription } from '@tazzel/renderer';
import { useStore } from 'zustand';
import { Button } from '../ui/button.tsx';
import { Check } from '../ui/check.tsx';
import { Choice } from '../ui/choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { Line, Section } from '../ui/section.tsx';
import { bench, cameraOf } from './bench-store.ts';

const SHUTTERS = [1000, 500, 250, 125, 60, 30, 15, 8, 4, 2, 1];

export function CameraSection({ disabled }: { disabled: boolean }) {
  const scene = useStore(bench.store, (state) => state.scene);
  const { camera: name, cameras } = useStore(bench.store, (state) => state.choices);
  const camera = useStore(bench.store, cameraOf);
  const ev = useStore(bench.store, (state) => state.job?.exposureEv ?? null);
  const own = scene?.cameras.find((one) => one.name === name);
  if (!scene || !own || !camera) return null;
  const set = (patch: Partial<CameraDescription>) => bench.setCamera({ ...camera, ...patch });
  const { exposure, focus } = camera;
  return (
    <Section
      title="Camera"
      action={
        cameras[name] && (
          <Button className="h-5 text-[11px]" disabled={disabled} onClick={() => bench.choose({ cameras: Object.fromEntries(Object.entries(cameras).filter(([key]) => key !== name)) })}>
            As in the scene
          </Button>
        )
      }
    >
      <Line label="Camera">
        <Choice label="Camera" value={name} disabled={disabled} options={scene.cameras.map((one) => ({ value: one.name, label: one.name }))} onChange={(next) => bench.choose({ camera: next })} />
      </Line>
      <NumberField label="Focal length" unit="mm" value={camera.focalMillimetres} min={8} max={200} step={1} digits={0} initial={own.focalMillimetres} disabled={disabled} help={`On a sensor ${camera.sensorMillimetres} mm wide`} onChange={(focalMillimetres) => set({ focalMillimetres })} />
      <NumberField label="Vertical shift" unit="mm" value={camera.shiftMillimetres} min={-20} max={20} step={0.5} digits={1} initial={own.shiftMillimetres} disabled={disabled} help="The lens moved upwards; uprights stay parallel" onChange={(shiftMillimetres) => set({ shiftMillimetres })} />
      <div className="py-0.5">
        <Check label="Depth of field" checked={focus !== null} disabled={disabled} onChange={(on) => set({ focus: on ? (own.focus ?? { distanceMetres: 10, fNumber: 2.8 }) : null })} />
      </div>
      {focus && (
        <>
          <NumberField label="In focus at" unit="m" value={focus.distanceMetres} min={0.3} max={100} step={0.1} digits={1} initial={10} disabled={disabled} onChange={(distanceMetres) => set({ focus: { ...focus, distanceMetres } })} />
          <NumberField label="Aperture" unit="f/" value={focus.fNumber} min={0.8} max={32} step={0.1} digits={1} initial={2.8} disabled={disabled} onChange={(fNumber) => set({ focus: { ...focus, fNumber } })} />
        </>
      )}
      <Line label="Exposure">
        <Choice
          label="Exposure"
          value={exposure.kind}
          disabled={disabled}
          options={[{ value: 'automatic', label: 'Automatic' }, { value: 'settings', label: 'By settings' }]}
          onChange={(kind) => set({ exposure: kind === 'automatic' ? { kind: 'automatic', stops: 0 } : { kind: 'settings', fNumber: 8, shutterSeconds: 1 / 15, iso: 200 } })}
        />
      </Line>
      {exposure.kind === 'automatic' ? (
        <NumberField label={ev === null ? 'Correction' : `Correction, was EV ${ev.toFixed(1)}`} unit="EV" value={exposure.stops} min={-4} max={4} step={0.1} digits={1} initial={0} disabled={disabled} onChange={(stops) => set({ exposure: { kind: 'automatic', stops } })} />
      ) : (
        <>
          <NumberField label="f-number" unit="f/" value={exposure.fNumber} min={1} max={32} step={0.1} digits={1} initial={8} disabled={disabled} onChange={(fNumber) => set({ exposure: { ...exposure, fNumber } })} />
          <Line label="Shutter">
            <Choice label="Shutter" value={String(Math.round(1 / exposure.shutterSeconds))} disabled={disabled} options={[...new Set([...SHUTTERS, Math.round(1 / exposure.shutterSeconds)])].map((part) => ({ value: String(part), label: part === 1 ? '1 s' : `1/${part} s` }))} onChange={(part) => set({ exposure: { ...exposure, shutterSeconds: 1 / Number(part) } })} />
          </Line>
          <NumberField label="Sensitivity" unit="ISO" value={exposure.iso} min={50} max={6400} step={50} digits={0} initial={200} disabled={disabled} onChange={(iso) => set({ exposure: { ...exposure, iso } })} />
        </>
      )}
    </Section>
  );
}
