/** What a set of files holds: roles that names do not tell, damage, copies. */
import { type ContentFacts, type Finding, findingsOf, guessEncoding, guessRole, isAdditive, type RoleRule, titleLength, type Source, sampledRows, hashOfIdentity, pixelIdentity } from '@tazzel/core';
import { titleOfPart } from '@tazzel/formats';
import { Cancelled } from './errors.ts';
import type { WorkerPool } from './pool.ts';
import type { ResponseOf } from './protocol.ts';
import { sideBySide } from './side-by-side.ts';
import type { SourceStore } from './source-store.ts';

export interface ExamineOptions {
  /** The artist's own rules for roles. */
  readonly rules?: readonly RoleRule[];
  /** Sources that are there already, among which copies are looked for. */
  readonly beside?: readonly Source[];
  readonly signal?: AbortSignal;
}

export class SourceExaminer {
  /** What sources look like, to find copies. */
  readonly #prints = new Map<string, string>();

  constructor(
    readonly pool: WorkerPool,
    readonly store: SourceStore,
  ) {}

  /**
   * Looks into the sources of one or several files: roles that their names do not tell, damage, alpha that is set aside
   * because light lies outside of it (a background that was rendered behind it). What fits into memory is decoded whole, so
   * that a damaged file is found now and need not be read again; of more, only some lines are.
   * @throws FormatError for the first source that cannot be read
   */
  async examine(sources: readonly Source[], options: ExamineOptions = {}): Promise<Source[]> {
    const [found] = await this.examineEach([sources], options);
    if (found instanceof Error) throw found;
    return found;
  }

  /**
   * The same for many files side by side, each for itself: in its place stands what was found, or why it cannot be read. What is found does not depend
   * on which file is done first. `onDone` is told the place of each.
   */
  async examineEach(files: readonly (readonly Source[])[], { rules = [], beside = [], signal, onDone }: ExamineOptions & { onDone?: (file: number) => void } = {}): Promise<(Source[] | Error)[]> {
    const looks = await sideBySide(files, this.pool.size * 2, async (sources, i): Promise<Look[] | Error> => {
      const look = await this.#look(sources, signal).catch((error: Error) => error);
      onDone?.(i);
      return look;
    });
    const known = [...beside];
    // What all files of the drop are called is a title; layers in a file have names of their own.
    const loose = files.flatMap((sources) => (sources.length === 1 ? sources : []));
    const title = titleLength(loose.map(({ name }) => name));
    return files.map((sources, i) => {
      const look = looks[i];
      if (look instanceof Error) return look;
      const found = this.#judge(sources, look, rules, known, sources.length === 1 ? title : null);
      known.push(...found);
      return found;
    });
  }

  async #look(sources: readonly Source[], signal?: AbortSignal): Promise<Look[]> {
    const bytes = sources.reduce((sum, { width, height, colorChannels, alphaChannel }) => sum + width * height * (colorChannels.length + (alphaChannel ? 1 : 0)) * 3, 0);
    const whole = bytes + this.store.bytesHeld < this.store.budgetBytes / 2;
    return Promise.all(
      sources.map(async (source) => {
        if (signal?.aborted) throw new Cancelled();
        if (!whole && source.file.format === 'exr') return this.store.sample(source);
        const { color, alpha } = await this.store.view(source, 0);
        return this.pool.run('content', { color, alpha, rows: sampledRows(color[0].height) }, { signal });
      }),
    );
  }

  #judge(sources: readonly Source[], looks: readonly Look[], rules: readonly RoleRule[], beside: readonly Source[], title: number | null): Source[] {
    return sources.map((source, i): Source => {
      const { facts, lightOutsideAlpha } = looks[i];
      // What the file says, or the artist, is not guessed again.
      const guessed = source.guess && source.guess.confidence < 1 ? guessRole(source.name, facts, rules, title ?? titleOfPart(source)) : null;
      const role = guessed?.role ?? source.role;
      const encoding = role === source.role ? source.encoding : guessEncoding(role, facts.integer ? 'integer' : 'float');
      const alpha = source.alpha === 'premultiplied' && lightOutsideAlpha > 0.001 ? 'ignore' : source.alpha;
      const named = { ...source, role, encoding, alpha, guess: guessed ? { reason: guessed.reason, confidence: guessed.confidence } : source.guess };
      // Empty pictures are alike and no copies.
      const copyOf = facts.most > facts.least && [...sources.slice(0, i), ...beside].find((other) => other.id !== source.id && this.#prints.get(pixelIdentity(other)) === printOf(source, facts));
      this.#prints.set(pixelIdentity(source), printOf(source, facts));
      const copy: Finding[] = copyOf ? [{ kind: 'copy', sentence: `${source.name} is the same picture as ${copyOf.name}. One of the two can be removed.` }] : [];
      return {
        ...named,
        findings: [...findingsOf(named, facts), ...copy],
        // Equal light in two roles is no copy: one lamp that is all that shines.
        ...(copyOf && copyOf.role === role && isAdditive(role) ? { inSum: 'out' as const } : {}),
      };
    });
  }

  keepOnly(hashes: ReadonlySet<string>): void {
    for (const key of this.#prints.keys()) if (!hashes.has(hashOfIdentity(key))) this.#prints.delete(key);
  }
}

type Look = ResponseOf<'content'>;

const printOf = ({ width, height }: Source, { channels, print, pixels, mean }: ContentFacts) => [width, height, channels, pixels, print, mean].join();
