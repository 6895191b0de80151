/** How a picture lies in its field: in CSS pixels, by a factor and where its upper left corner is. */
export interface SheetView {
  readonly scale: number;
  readonly x: number;
  readonly y: number;
}
export interface Box {
  readonly width: number;
  readonly height: number;
}

const MOST = 16;
/** So much of the picture stays in its field. */
const KEPT = 48;

export const fitted = (picture: Box, field: Box): SheetView => {
  const scale = Math.min(field.width / picture.width, field.height / picture.height);
  return { scale, x: (field.width - picture.width * scale) / 2, y: (field.height - picture.height * scale) / 2 };
};

/** Moved and zoomed by `factor` around a point of the field; not smaller than fitted or half its pixels, and never out of sight. */
export function zoomed(view: SheetView, picture: Box, field: Box, factor: number, around: { readonly x: number; readonly y: number }, moved = { x: 0, y: 0 }): SheetView {
  const least = Math.min(fitted(picture, field).scale, 0.5);
  const scale = Math.min(MOST, Math.max(least, view.scale * factor));
  const by = scale / view.scale;
  const kept = (at: number, side: number, room: number) => Math.min(room - KEPT, Math.max(KEPT - side * scale, at));
  return { scale, x: kept(around.x - (around.x - view.x) * by + moved.x, picture.width, field.width), y: kept(around.y - (around.y - view.y) * by + moved.y, picture.height, field.height) };
}

/** Shares of the picture at a point of the field; null beside it. */
export function placeAt(view: SheetView, picture: Box, point: { readonly x: number; readonly y: number }): { readonly x: number; readonly y: number } | null {
  const [x, y] = [(point.x - view.x) / (picture.width * view.scale), (point.y - view.y) / (picture.height * view.scale)];
  return x >= 0 && x <= 1 && y >= 0 && y <= 1 ? { x, y } : null;
}

/** A drawn line with few points: what lies nearer to the last one than `least` (in shares) is left out, and rounded to what can be seen. */
export function thinned(points: readonly { readonly x: number; readonly y: number }[], least = 0.002, most = 400): number[] {
  const kept: { x: number; y: number }[] = [];
  for (const [i, point] of points.entries()) {
    const last = kept.at(-1);
    if (!last || i === points.length - 1 || Math.hypot(point.x - last.x, point.y - last.y) >= least) kept.push(point);
  }
  const step = Math.ceil(kept.length / most);
  return kept.filter((_, i) => i % step === 0 || i === kept.length - 1).slice(0, most).flatMap(({ x, y }) => [x, y].map((value) => Math.round(Math.min(1, Math.max(0, value)) * 1e4) / 1e4));
}
