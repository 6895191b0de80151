/** A colour sample; the colour is never the only sign. */
export const Chip = ({ color, large = false }: { color: readonly number[]; large?: boolean }) => (
  <span aria-hidden className={`inline-block shrink-0 border border-ink ${large ? 'size-8' : 'size-3'}`} style={{ background: `rgb(${color.map((v) => Math.round(v * 255)).join(' ')})` }} />
);
