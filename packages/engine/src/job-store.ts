/** Jobs: states of documents at a level, with everything that workers need for them. They are found again, leased while their tiles run, and forgotten when many others came. */
import { findSource, lightOf, type Plan, type Plane, planDocument, type PlanOptions, problemSentence, resultOf, type Source, sizeAtLevel, type SourceView, targetKey, type TazzelDocument } from '@tazzel/core';
import { Cancelled } from './errors.ts';
import type { MaskStore } from './mask-store.ts';
import type { WorkerPool } from './pool.ts';
import type { Job } from './protocol.ts';
import type { SourceStore } from './source-store.ts';

interface PreparedJob {
  readonly job: Job;
  readonly problems: readonly string[];
  /** All workers have it. */
  readonly told: Promise<unknown>;
}

/** A job with the plan of the very document that it serves now: several documents with the same picture share a job. */
export interface Prepared extends PreparedJob {
  readonly plan: Plan;
}

const JOBS_KEPT = 24;

export interface JobOptions extends PlanOptions {
  readonly level: number;
  /** Whose sources must stay. */
  readonly owner?: string;
  readonly signal?: AbortSignal;
}

export class JobStore {
  readonly #jobs = new Map<string, PreparedJob>();
  /** Jobs whose tiles are being computed, with how many passes wait for them: these are never forgotten. */
  readonly #leases = new Map<number, number>();
  readonly #leased = new Map<number, PreparedJob>();
  #nextJob = 1;

  constructor(
    readonly pool: WorkerPool,
    readonly store: SourceStore,
    readonly maskStore: MaskStore,
  ) {}

  /** Everything that workers may be asked about. */
  known(): Job[] {
    return [...new Set([...this.#jobs.values(), ...this.#leased.values()].map(({ job }) => job))];
  }

  /** Jobs hold the planes they were made with; without this, evicted ones would stay in memory. */
  forgetIdle(): void {
    for (const [key, { job }] of this.#jobs) if (!this.#leases.has(job.id)) this.#jobs.delete(key);
  }

  clear(): void {
    this.#jobs.clear();
  }

  /** Prepares a state at a level and keeps the workers' copy of it for as long as `work` runs. @throws Cancelled */
  async with<T>(document: TazzelDocument, options: JobOptions, work: (prepared: Prepared) => Promise<T>): Promise<T> {
    const { level, owner, signal, ...planOptions } = options;
    const prepared = await this.#prepare(document, planOptions, level, owner);
    try {
      if (signal?.aborted) throw new Cancelled();
      return await work(prepared);
    } catch (error) {
      // Where workers never got it, that is why.
      if (!(error instanceof Cancelled)) await prepared.told;
      throw error;
    } finally {
      this.#release(prepared.job.id);
    }
  }

  #release(jobId: number): void {
    const left = (this.#leases.get(jobId) ?? 1) - 1;
    if (left > 0) this.#leases.set(jobId, left);
    else {
      this.#leases.delete(jobId);
      this.#leased.delete(jobId);
    }
  }

  /** Everything a worker needs for one state at one level, leased. States that were prepared before are found again. */
  async #prepare(document: TazzelDocument, options: PlanOptions, level: number, owner?: string): Promise<Prepared> {
    const missing = new Set<string>();
    const problems: string[] = [];
    for (;;) {
      const plan = planDocument(document, { ...options, missing });
      const known = this.#jobs.get(jobKey(plan, level));
      if (known && problems.length === 0) {
        this.#lease(known);
        return servedBy(known, plan);
      }
      const used = plan.sources.map((id) => findSource(document, id) as Source);
      if (owner) this.store.pin(owner, used, level);
      const views: Record<string, SourceView> = {};
      const failed = missing.size;
      await Promise.all(
        used.map(async (source) => {
          try {
            views[source.id] = await this.store.view(source, level);
          } catch (error) {
            if (error instanceof Cancelled) throw error;
            missing.add(source.id);
            problems.push((error as Error).message);
          }
        }),
      );
      if (missing.size > failed) continue;
      const masks: Record<string, Plane> = {};
      for (const [key, { mask, bends }] of Object.entries(plan.masks)) {
        try {
          const made = await this.maskStore.mask(document, mask, level, bends);
          masks[key] = made.plane;
          for (const problem of made.problems) problems.push(`Mask ${mask.name}: ${problemSentence(problem)}`);
        } catch (error) {
          if (error instanceof Cancelled) throw error;
          // A mask that cannot be made selects nothing, which changes least.
          const size = sizeAtLevel(document.size, level);
          masks[key] = { type: 'u8', data: new Uint8Array(size.width * size.height), ...size };
          problems.push((error as Error).message);
        }
      }
      // Recipes stay here: their coverage is made, and strokes are long.
      const job: Job = { id: this.#nextJob++, plan: { ...plan, masks: {} }, level, sources: views, masks };
      // Workers read in order: what is asked about the job follows at once, without waiting for the way there and back.
      const told = this.pool.broadcast('job', { job, keep: [...this.known(), job].map(({ id }) => id) });
      const prepared: PreparedJob = { job, problems: [...new Set(problems)], told };
      told.catch(() => this.#forget(prepared));
      this.#lease(prepared);
      return servedBy(prepared, plan);
    }
  }

  #forget(prepared: PreparedJob): void {
    const key = jobKey(prepared.job.plan, prepared.job.level);
    if (this.#jobs.get(key) === prepared) this.#jobs.delete(key);
  }

  /** Marks a job as in use and as the one last asked for; the oldest idle ones are forgotten. */
  #lease(prepared: PreparedJob): void {
    const { id } = prepared.job;
    this.#leases.set(id, (this.#leases.get(id) ?? 0) + 1);
    this.#leased.set(id, prepared);
    const key = jobKey(prepared.job.plan, prepared.job.level);
    this.#jobs.delete(key);
    this.#jobs.set(key, prepared);
    for (const [oldest, { job }] of this.#jobs) {
      if (this.#jobs.size <= JOBS_KEPT) break;
      if (!this.#leases.has(job.id)) this.#jobs.delete(oldest);
    }
  }
}

/** What is left out of a plan leaves no trace in its keys: it is said of the plan, not of the job that may serve several. */
const servedBy = ({ job, problems, told }: PreparedJob, plan: Plan): Prepared => ({ job, plan, told, problems: [...new Set([...plan.problems, ...problems])] });

const jobKey = (plan: Plan, level: number) => `${level} ${targetKey(plan, lightOf(plan))} ${targetKey(plan, resultOf(plan))}`;
