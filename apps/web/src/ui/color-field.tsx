import { clampUnit, luminanceOf, srgbDecode, srgbEncode } from '@tazzel/core';
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

/** Light as a hex code of the colour to show. */
export const hexOf = (light: Light) => `#${light.map((v) => Math.round(clampUnit(srgbEncode(v)) * 255).toString(16).padStart(2, '0')).join('')}`;
const lightOf = (hex: string): Light => [1, 3, 5].map((at) => Math.round(srgbDecode(Number.parseInt(hex.slice(at, at + 2), 16) / 255) * 1e5) / 1e5) as unknown as Light;
/** `#rgb`, `rrggbb` and so on; null if it is none. */
export function readHex(text: string): string | null {
  const digits = /^#?([0-9a-f]{3}|[0-9a-f]{6})$/i.exec(text.trim())?.[1];
  if (!digits) return null;
  return `#${(digits.length === 3 ? [...digits].map((d) => d + d).join('') : digits).toLowerCase()}`;
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
    const found = readHex(text);
    if (found && found !== hex) onChange(lightOf(found), `${id} ${++gesture.current}`);
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
        onChange={(event) => onChange(lightOf(event.currentTarget.value), `${id} ${gesture.current}`)}
      />
      <input
        aria-label={`${label} as a hex code`}
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
