/** Numbers that grow in number, in typed arrays: a list of millions of numbers takes several times as much. */
type Numbers = Float32Array | Int32Array | Uint16Array | Uint8Array;

export class Growing<T extends Numbers> {
  #data: T;
  #length = 0;

  /** `room` is how many are expected. */
  constructor(
    readonly make: (length: number) => T,
    room: number,
  ) {
    this.#data = make(Math.max(16, room));
  }

  get length(): number {
    return this.#length;
  }

  push(...values: readonly number[]): void {
    if (this.#length + values.length > this.#data.length) {
      const larger = this.make(Math.ceil((this.#length + values.length) * 1.5));
      larger.set(this.#data as never);
      this.#data = larger;
    }
    for (const value of values) this.#data[this.#length++] = value;
  }

  set(at: number, value: number): void {
    this.#data[at] = value;
  }

  /** What was pushed, without a copy. */
  done(): T {
    return this.#data.subarray(0, this.#length) as T;
  }
}
