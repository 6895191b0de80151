/** Mixtures of few colours, by least squares on the simplex. Common practice of colour unmixing, no published source for the limits. */

/** Finds the mixture of few colours that explains one best. Nothing is made on the way, no list either: in code that has just begun to run they cost more than the arithmetic. */
export class Solver {
  r = 0;
  g = 0;
  blue = 0;
  a = 0;
  b = 0;
  c = 0;
  shareA = 1;
  shareB = 0;
  /** Squared distance that is left. */
  residual = Number.POSITIVE_INFINITY;

  constructor(readonly colors: Float64Array) {}

  begin(r: number, g: number, b: number): void {
    this.r = r;
    this.g = g;
    this.blue = b;
    this.residual = Number.POSITIVE_INFINITY;
  }

  take(only: number): void {
    this.a = this.b = this.c = only;
    this.shareA = 1;
    this.shareB = 0;
    this.residual = 0;
  }

  /** One of the first with one of the second. */
  pairs(first: Uint16Array, firstCount: number, second: Uint16Array, secondCount: number): void {
    const { colors, r, g, blue } = this;
    const areSame = first === second;
    for (let i = 0; i < firstCount; i++) {
      const a = first[i] * 3;
      for (let j = areSame ? i + 1 : 0; j < secondCount; j++) {
        const b = second[j] * 3;
        const bx = colors[b];
        const by = colors[b + 1];
        const bz = colors[b + 2];
        const dx = colors[a] - bx;
        const dy = colors[a + 1] - by;
        const dz = colors[a + 2] - bz;
        const length = dx * dx + dy * dy + dz * dz;
        if (length === 0) continue;
        const along = ((r - bx) * dx + (g - by) * dy + (blue - bz) * dz) / length;
        const share = along < 0 ? 0 : along > 1 ? 1 : along;
        const ex = r - bx - share * dx;
        const ey = g - by - share * dy;
        const ez = blue - bz - share * dz;
        const residual = ex * ex + ey * ey + ez * ez;
        if (residual >= this.residual) continue;
        this.residual = residual;
        this.a = first[i];
        this.b = this.c = second[j];
        this.shareA = share;
        this.shareB = 1 - share;
      }
    }
  }

  /** Three colours, all with a share above 0, if they leave no more than `enough` and a quarter of what two left. Returns whether they were taken. */
  triples(among: Uint16Array, count: number, enough: number): boolean {
    const { colors, r, g, blue } = this;
    let least = Math.min(enough, this.residual / 4);
    let taken = false;
    for (let k = 2; k < count; k++) {
      const c = among[k] * 3;
      const cx = colors[c];
      const cy = colors[c + 1];
      const cz = colors[c + 2];
      const px = r - cx;
      const py = g - cy;
      const pz = blue - cz;
      for (let i = 0; i < k - 1; i++) {
        const a = among[i] * 3;
        const ux = colors[a] - cx;
        const uy = colors[a + 1] - cy;
        const uz = colors[a + 2] - cz;
        const uu = ux * ux + uy * uy + uz * uz;
        const up = ux * px + uy * py + uz * pz;
        for (let j = i + 1; j < k; j++) {
          const b = among[j] * 3;
          const vx = colors[b] - cx;
          const vy = colors[b + 1] - cy;
          const vz = colors[b + 2] - cz;
          const uv = ux * vx + uy * vy + uz * vz;
          const vv = vx * vx + vy * vy + vz * vz;
          const determinant = uu * vv - uv * uv;
          if (determinant < 1e-9) continue;
          const vp = vx * px + vy * py + vz * pz;
          const s = (up * vv - vp * uv) / determinant;
          const t = (vp * uu - up * uv) / determinant;
          if (s < 0 || t < 0 || s + t > 1) continue;
          const ex = px - s * ux - t * vx;
          const ey = py - s * uy - t * vy;
          const ez = pz - s * uz - t * vz;
          const residual = ex * ex + ey * ey + ez * ez;
          if (residual > least) continue;
          least = residual;
          taken = true;
          this.residual = residual;
          this.a = among[i];
          this.b = among[j];
          this.c = among[k];
          this.shareA = s;
          this.shareB = t;
        }
      }
    }
    return taken;
  }
}

/** The nearest of the first `count` colours. */
export function nearestOf(r: number, g: number, b: number, among: Uint16Array, count: number, colors: Float64Array): number {
  let best = among[0];
  let least = Number.POSITIVE_INFINITY;
  for (let k = 0; k < count; k++) {
    const at = among[k] * 3;
    const distance = (r - colors[at]) ** 2 + (g - colors[at + 1]) ** 2 + (b - colors[at + 2]) ** 2;
    if (distance < least) {
      least = distance;
      best = among[k];
    }
  }
  return best;
}
