/**
 * Gaussian blur of one plane of floats.
 *
 * Small widths are convolved with the sampled Gaussian itself, larger ones with four extended boxes, whose cost does not
 * grow with the width and whose variance is exact. @source Gwosdek, Grewenig, Bruhn, Weickert: "Theoretical Foundations of
 * Gaussian Convolution by Extended Box Filtering", SSVM 2011
 */
const LARGEST_SAMPLED_SIGMA = 4;
const BOXES = 4;

/**
 * Blurs in place. Beyond the edges the outermost samples go on.
 *
 * @param plane width × height samples, row-major, finite
 * @param sigmaPx standard deviation in pixels; 0 changes nothing
 */
export function gaussianBlur(plane: Float32Array, width: number, height: number, sigmaPx: number): void {
  if (!(sigmaPx > 0)) return;
  const pass = sigmaPx <= LARGEST_SAMPLED_SIGMA ? sampledPass(sigmaPx) : boxesPass(sigmaPx);
  const line = new Float32Array(Math.max(width, height * COLUMNS));
  for (let y = 0; y < height; y++) {
    const row = plane.subarray(y * width, (y + 1) * width);
    line.set(row);
    row.set(pass(line, width, 1));
  }
  // Some columns side by side, so that every line of memory that is read is used.
  for (let x = 0; x < width; x += COLUMNS) {
    const count = Math.min(COLUMNS, width - x);
    for (let y = 0; y < height; y++) line.set(plane.subarray(y * width + x, y * width + x + count), y * count);
    const done = pass(line, height, count);
    for (let y = 0; y < height; y++) plane.set(done.subarray(y * count, (y + 1) * count), y * width + x);
  }
}

const COLUMNS = 16;

/** Filters `count` interleaved lines of `length` samples and returns where the result lies. */
type Pass = (line: Float32Array, length: number, count: number) => Float32Array;

function sampledPass(sigmaPx: number): Pass {
  const radius = Math.ceil(4 * sigmaPx);
  const raw = Array.from({ length: 2 * radius + 1 }, (_, i) => Math.exp(-((i - radius) ** 2) / (2 * sigmaPx ** 2)));
  const total = raw.reduce((a, b) => a + b, 0);
  const weights = raw.map((weight) => weight / total);
  let out = new Float32Array(0);
  return (line, length, count) => {
    if (out.length < length * count) out = new Float32Array(length * count);
    for (let i = 0; i < length; i++) {
      for (let c = 0; c < count; c++) {
        let sum = 0;
        for (let k = -radius; k <= radius; k++) sum += weights[k + radius] * line[Math.min(length - 1, Math.max(0, i + k)) * count + c];
        out[i * count + c] = sum;
      }
    }
    return out.subarray(0, length * count);
  };
}

function boxesPass(sigmaPx: number): Pass {
  const variance = sigmaPx ** 2 / BOXES;
  const half = Math.floor(0.5 * Math.sqrt(12 * variance + 1) - 0.5);
  const edge = ((2 * half + 1) * (half * (half + 1) - 3 * variance)) / (6 * (variance - (half + 1) ** 2));
  const scale = 1 / (2 * half + 1 + 2 * edge);
  // Each box would go on from the outermost samples of the one before it, not of the picture; so the lines are made longer.
  const margin = BOXES * (half + 1);
  let spare = [new Float32Array(0), new Float32Array(0)];
  return (line, length, count) => {
    const padded = length + 2 * margin;
    if (spare[0].length < padded * count) spare = spare.map(() => new Float32Array(padded * count));
    let [from, to] = spare;
    for (let i = 0; i < margin; i++) {
      for (let c = 0; c < count; c++) {
        from[i * count + c] = line[c];
        from[(length + margin + i) * count + c] = line[(length - 1) * count + c];
      }
    }
    from.set(line.subarray(0, length * count), margin * count);
    const sums = new Float64Array(count);
    for (let box = 1; box <= BOXES; box++) {
      // Every box needs its neighbours on both sides, so each leaves less of the margin.
      const first = box * (half + 1);
      const last = padded - first;
      sums.fill(0);
      for (let k = first - half; k <= first + half; k++) for (let c = 0; c < count; c++) sums[c] += from[k * count + c];
      for (let i = first; i < last; i++) {
        const [before, after, leaving] = [(i - half - 1) * count, (i + half + 1) * count, (i - half) * count];
        for (let c = 0; c < count; c++) {
          to[i * count + c] = (sums[c] + edge * (from[before + c] + from[after + c])) * scale;
          sums[c] += from[after + c] - from[leaving + c];
        }
      }
      [from, to] = [to, from];
    }
    return from.subarray(margin * count, (margin + length) * count);
  };
}
