/** A folder that renders are put into, looked at again and again: what is new in it, once it is whole as far as can be seen from outside. */

import { FormatError } from '@tazzel/formats';

export interface ListedFile {
  readonly path: string;
  readonly bytes: number;
  /** When it was changed last, in milliseconds. */
  readonly changed: number;
}

/** Hidden files, and what is written beside and moved into place. */
export const isPassedOver = (name: string): boolean => /^\.|\.(partial|part|tmp|crdownload)$/i.test(name);

/** Why a file could not be read: it may still be written to. */
export const isHalfWritten = (error: unknown): boolean => error instanceof FormatError && (error.code === 'truncated' || error.code === 'corrupt');

/** Looks after which a file that is not whole counts as broken, if nothing in the folder has changed since. */
const PATIENCE = 15;

const stateOf = ({ bytes, changed }: ListedFile) => `${bytes} ${changed}`;

export class FolderWatch {
  #last = new Map<string, string>();
  #done = new Map<string, string>();
  /** Looks without a change since somebody had to wait; null if nobody has. */
  #waited: number | null = null;

  /** Files that are new or changed, if none has changed since the last look; else none. What is being written to waits for the next look. */
  look(files: readonly ListedFile[]): readonly string[] {
    const now = new Map(files.map((file) => [file.path, stateOf(file)]));
    const isStill = now.size === this.#last.size && [...now].every(([path, state]) => this.#last.get(path) === state);
    this.#last = now;
    if (!isStill) {
      this.#waited = null;
      return [];
    }
    if (this.#waited !== null && ++this.#waited < PATIENCE) return [];
    return files.flatMap(({ path }) => (this.#done.get(path) === now.get(path) ? [] : [path]));
  }

  /** Those of the last look are done with until they change. */
  done(): void {
    this.#done = new Map(this.#last);
    this.#waited = null;
  }

  /** One of those of the last look is not whole. All of them come again when something changes. Says whether it is worth waiting: not for ever. */
  wait(): boolean {
    if (this.#waited !== null) return false;
    this.#waited = 0;
    return true;
  }
}
