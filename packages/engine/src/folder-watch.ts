/** A folder that renders are put into, looked at again and again: what is new in it, once it is whole as far as can be seen from outside. */

export interface ListedFile {
  readonly path: string;
  readonly bytes: number;
  /** When it was changed last, in milliseconds. */
  readonly changed: number;
}

const stateOf = ({ bytes, changed }: ListedFile) => `${bytes} ${changed}`;

export class FolderWatch {
  #last = new Map<string, string>();
  #done = new Map<string, string>();

  /** Files that are new or changed, if none has changed since the last look; else none. What is being written to waits for the next look. */
  look(files: readonly ListedFile[]): readonly string[] {
    const now = new Map(files.map((file) => [file.path, stateOf(file)]));
    const isStill = now.size === this.#last.size && [...now].every(([path, state]) => this.#last.get(path) === state);
    this.#last = now;
    return isStill ? files.flatMap(({ path }) => (this.#done.get(path) === now.get(path) ? [] : [path])) : [];
  }

  /** Those of the last look are done with until they change. */
  done(): void {
    this.#done = new Map(this.#last);
  }
}
