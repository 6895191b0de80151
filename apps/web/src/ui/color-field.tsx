import { hexOf, kelvinToLinearSrgb, lightOfHex, luminanceOf, readHex } from '@tazzel/core';
import { useId, useRef, useState } from 'react';

type Light = readonly [number, number, number];

interface ColorFieldProps {
  readonly label: string;
  /** Linear light. */
  readonly value: Light;
  /** It is the colour of a surface, which throws back a share of the light. */
  readonly isSurface?: boolean;
  readonly onChange: (value: Light, gesture: string) => void;
}

/** What is typed for a colour: a hex code, a light reflectance (`LRV 45`), or a temperature (`3200 K`) for light as bright as it was; null if it is none of them. */
export function readColor(text: string, value: Light): Light | null {
  const hex = readHex(text);
  if (hex) return hex === hexOf(value) ? value : lightOfHex(hex);
  const share = Number(/^lrv\s*(\d{1,3}(?:\.\d+)?)$/i.exec(text.trim())?.[1] ?? Number.NaN) / 100;
  if (share >= 0 && share <= 1) return withLrv(value, share);
  const kelvin = Number(/^(\d{4,5})\s*k$/i.exec(text.trim())?.[1] ?? Number.NaN);
  if (!(kelvin >= 1700 && kelvin <= 25_000)) return null;
  const light = kelvinToLinearSrgb(kelvin);
  // Nothing of a surface is brighter than white.
  const scale = Math.min(luminanceOf(value), 1 / Math.max(...light));
  return light.map((v) => Math.round(v * scale * 1e5) / 1e5) as unknown as Light;
}
/** The same colour as light or as dark as a share of the light that it throws back; nothing of it becomes brighter than white. */
function withLrv(value: Light, share: number): Light {
  const now = luminanceOf(value);
  const scaled = now > 0 ? value.map((v) => (v * share) / now) : [share, share, share];
  const most = Math.max(...scaled);
  // What would be brighter than white is mixed with grey of the same light.
  const pure = most > 1 ? (1 - share) / (most - share) : 1;
  return scaled.map((v) => Math.round((share + pure * (v - share)) * 1e5) / 1e5) as unknown as Light;
}

/** @source BS 8493:2008+A1:2010: 100 · Y */
const lrv = (light: Light) => 100 * luminanceOf(light);

/** A colour: by eye, by its hex code, with the share of light that it throws back. */
export function ColorField({ label, value, isSurface = false, onChange }: ColorFieldProps) {
  const id = useId();
  const gesture = useRef(0);
  const [draft, setDraft] = useState<string | null>(null);
  const hex = hexOf(value);
  const take = (text: string) => {
    const found = readColor(text, value);
    if (found && found !== value) onChange(found, `${id} ${++gesture.current}`);
    setDraft(null);
  };
  return (
    <div className="grid grid-cols-[1fr_28px_88px] items-center gap-x-1.5 py-0.5">
      <label htmlFor={id} className="narrow truncate">
        {label}
      </label>
      <input
        id={id}
        type="color"
        value={hex}
        title="Choose by eye"
        className="h-[22px] w-7 border border-ink bg-transparent p-0"
        onPointerDown={() => {
          gesture.current++;
        }}
        onChange={(event) => onChange(lightOfHex(event.currentTarget.value), `${id} ${gesture.current}`)}
      />
      <input
        aria-label={`${label} as a hex code`}
        title={isSurface ? 'A hex code as the surface looks in neutral light, or a reflectance such as LRV 45' : 'A hex code, or a temperature such as 3200 K'}
        className="field figure min-w-0 px-1 text-[12px]"
        spellCheck={false}
        autoComplete="off"
        value={draft ?? hex}
        onFocus={(event) => event.currentTarget.select()}
        onChange={(event) => setDraft(event.currentTarget.value)}
        onBlur={() => draft !== null && take(draft)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          else if (event.key === 'Escape') setDraft(null);
        }}
      />
      {isSurface && (
        <span className="figure col-span-3 text-right text-[11px] text-faint" title="Light reflectance value: share of the light that a surface of this colour throws back">
          LRV {lrv(value).toFixed(0)}
        </span>
      )}
    </div>
  );
}
