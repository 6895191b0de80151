import { Arena } from '@tazzel/core';
import type { KernelExports } from './exports.ts';

/** Pixels a span holds: all registers together stay in a core's own cache, and calls into the loops are few. */
export const SPAN_LENGTH = 4096;
/** Registers a multiple of 4096 bytes apart would fall on the same cache lines. */
export const REGISTER_BYTES = SPAN_LENGTH * 4 + 1088;
const MOST_REGISTERS = 96;
const WORD_TABLE_BYTES = 65536 * 4;
/** Tables of corrections: uploaded once, and all forgotten when there is no more room. */
const TABLE_BYTES = 2 ** 23;
/** Planes of a task. What was never written to takes up nothing. */
const ARENA_BYTES = 64 * 2 ** 20;
const STAGING_BYTES = 8 * 2 ** 20;
const PAGE = 65536;

/**
 * The memory of one instance of the loops: small things first, then registers, tables, planes, and a staging area that grows at the end. Growing
 * detaches the views over memory, so whatever is kept is read again through `bytes`.
 */
export abstract class KernelMemory {
  readonly arena: Arena;
  protected bytes: Uint8Array;
  protected readonly staging: number;
  protected readonly wordTable: number;
  #next: number;
  #registersEnd: number;
  #stagingBytes = STAGING_BYTES;
  readonly #tables = new Map<string, number>();
  readonly #tablesStart: number;
  #tablesNext: number;
  readonly #tablesEnd: number;

  protected constructor(
    protected readonly exports: KernelExports,
    protected readonly memory: WebAssembly.Memory,
    smallBytes: number,
  ) {
    this.bytes = new Uint8Array(memory.buffer);
    this.#next = Math.ceil(exports.heapStart() / 64) * 64;
    const registers = this.#next + smallBytes;
    this.#registersEnd = registers + MOST_REGISTERS * REGISTER_BYTES;
    this.wordTable = this.#registersEnd;
    this.#tablesStart = this.wordTable + WORD_TABLE_BYTES;
    this.#tablesNext = this.#tablesStart;
    this.#tablesEnd = this.#tablesStart + TABLE_BYTES;
    this.staging = this.#tablesEnd + ARENA_BYTES;
    this.arena = new Arena({ length: ARENA_BYTES / 4, view: (start, length) => this.floats(this.#tablesEnd + start * 4, length) });
    this.#grow(this.staging + this.#stagingBytes);
  }

  protected reserve(bytes: number): number {
    const pointer = this.#next;
    this.#next += Math.ceil(bytes / 64) * 64;
    if (this.#next > this.#registersEnd) throw new Error('The kernels have no room for another register.');
    return pointer;
  }

  #grow(end: number): void {
    const missing = end - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
    if (this.bytes.buffer === this.memory.buffer) return;
    this.bytes = new Uint8Array(this.memory.buffer);
    this.arena.moved();
  }

  protected floats(pointer: number, length: number): Float32Array {
    return new Float32Array(this.memory.buffer, pointer, length);
  }

  /** Where a table lies, uploaded if it was not yet. @throws RangeError if it is larger than all the room there is */
  protected table(key: string, numbers: Float32Array): number {
    const known = this.#tables.get(key);
    if (known !== undefined) return known;
    const bytes = Math.ceil(numbers.byteLength / 64) * 64;
    if (bytes > TABLE_BYTES) throw new RangeError(`A table of ${numbers.length} numbers was prepared; there is room for ${TABLE_BYTES / 4}.`);
    if (this.#tablesNext + bytes > this.#tablesEnd) {
      this.#tables.clear();
      this.#tablesNext = this.#tablesStart;
    }
    const pointer = this.#tablesNext;
    this.#tablesNext += bytes;
    this.floats(pointer, numbers.length).set(numbers);
    this.#tables.set(key, pointer);
    return pointer;
  }

  /** Where numbers lie: in this memory already, or copied to `aside`. */
  protected lent(numbers: Float32Array, aside: number): number {
    if (numbers.buffer === this.memory.buffer) return numbers.byteOffset;
    this.floats(aside, numbers.length).set(numbers);
    return aside;
  }

  /** Where results are written so that they are in `out` afterwards: at once, or `aside` and by the function that is given back. */
  protected target(out: Float32Array, aside: number): [pointer: number, done: () => void] {
    if (out.buffer === this.memory.buffer) return [out.byteOffset, () => undefined];
    return [aside, () => out.set(this.floats(aside, out.length))];
  }

  /** The same for what is there already and is changed. */
  protected changed(out: Float32Array, aside: number): [pointer: number, done: () => void] {
    const target = this.target(out, aside);
    if (target[0] === aside) this.floats(aside, out.length).set(out);
    return target;
  }

  /** Room that numbers need aside. */
  protected bytesAside(numbers: Float32Array | null): number {
    return numbers === null || numbers.buffer === this.memory.buffer ? 0 : numbers.byteLength;
  }

  /** Where numbers lie (see `lent`) if there are any, or 0. */
  protected lentIf(numbers: Float32Array | null, aside: number): number {
    return numbers ? this.lent(numbers, aside) : 0;
  }

  protected twoAreas(bytes: number): [number, number] {
    return this.areas(bytes, bytes) as [number, number];
  }

  /** Places in the staging area, one after the other, with some room behind each. */
  protected areas(...sizes: readonly number[]): number[] {
    let next = this.staging;
    const pointers = sizes.map((bytes) => {
      const pointer = next;
      next += Math.ceil((bytes + 1088) / 64) * 64;
      return pointer;
    });
    if (next - this.staging > this.#stagingBytes) {
      this.#stagingBytes = next - this.staging;
      this.#grow(next);
    }
    return pointers;
  }
}
