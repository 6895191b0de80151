/** Unpacking elements of EXR files: each chunk of a part holds lines of all its elements, so those that are wanted at the same time are unpacked together. */
import type { Plane, Source } from '@tazzel/core';
import { allocateExrPlanes, exrPlaneBytes, type ExrHeader, type ExrPlanes } from '@tazzel/formats';
import { allDone, PRIORITY, type WorkerPool } from './pool.ts';
import type { FileRef } from './protocol.ts';

const channelsOf = ({ colorChannels, alphaChannel }: Source): readonly string[] => (alphaChannel === null ? colorChannels : [...colorChannels, alphaChannel]);
const partOf = ({ file, part }: Source) => `${file.hash}/${part}`;

/** What a task unpacks at least: handing over a smaller one, and reading its part of the file, costs more than the unpacking. */
const TASK_BYTES = 2 ** 21;

export class ExrParts {
  /** Elements that are asked for and not unpacked yet, by their part. */
  readonly #wanted = new Map<string, Set<Source>>();
  readonly #running = new Map<string, Promise<unknown>>();
  readonly #unpacked = new Map<Source, ExrPlanes>();

  /** `togetherBytes`: how much memory elements may take that are unpacked beside the one whose turn it is. */
  constructor(
    readonly pool: WorkerPool,
    readonly allocateShared: (byteLength: number) => ArrayBufferLike,
    readonly togetherBytes: number,
  ) {}

  /** Says that an element will be read soon. What is returned takes that back. */
  expect(source: Source): () => void {
    const part = partOf(source);
    const wanted = this.#wanted.get(part) ?? new Set();
    this.#wanted.set(part, wanted.add(source));
    return () => {
      wanted.delete(source);
      if (wanted.size === 0 && this.#wanted.get(part) === wanted) this.#wanted.delete(part);
      this.#unpacked.delete(source);
    };
  }

  /** Planes of an element by channel. @throws FormatError `corrupt` or `truncated` */
  async read(source: Source, file: FileRef, header: ExrHeader): Promise<ExrPlanes> {
    const part = partOf(source);
    for (;;) {
      const planes = this.#unpacked.get(source);
      if (planes) return planes;
      const running = this.#running.get(part);
      if (!running) break;
      // Whoever is unpacking may take this one along; what goes wrong is told when its own turn comes.
      await running.catch(() => undefined);
    }
    const reading = this.#unpack(source, file, header).finally(() => this.#running.delete(part));
    this.#running.set(part, reading);
    return reading;
  }

  async #unpack(source: Source, file: FileRef, header: ExrHeader): Promise<ExrPlanes> {
    const channels = new Set(channelsOf(source));
    const along: Source[] = [];
    let left = this.togetherBytes;
    for (const other of this.#wanted.get(partOf(source)) ?? []) {
      if (other === source || this.#unpacked.has(other)) continue;
      const added = channelsOf(other).filter((name) => !channels.has(name));
      left -= exrPlaneBytes(header, added);
      if (left < 0) break;
      for (const name of added) channels.add(name);
      along.push(other);
    }
    const planes = allocateExrPlanes(header, channels, this.allocateShared);
    const chunks = header.offsets.length;
    const tasks = Math.min(chunks, this.pool.size * 4, Math.max(1, Math.ceil(exrPlaneBytes(header, [...channels]) / TASK_BYTES)));
    await allDone(
      Array.from({ length: tasks }, (_, i) => {
        const range = { first: Math.floor((chunks * i) / tasks), last: Math.floor((chunks * (i + 1)) / tasks) };
        return this.pool.run('decode-exr', { file, header, planes, ...range }, { priority: PRIORITY.load });
      }),
    );
    const of = (wanted: Source): ExrPlanes => new Map(channelsOf(wanted).map((name) => [name, planes.get(name) as Plane]));
    for (const other of along) if (this.#wanted.get(partOf(other))?.has(other)) this.#unpacked.set(other, of(other));
    return of(source);
  }
}
