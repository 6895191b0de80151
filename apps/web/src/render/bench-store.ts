/** The render bench without its looks: the scene in hand, what is chosen, the render that runs. */
import { AS_RENDERED, gainOf, kelvinToLinearSrgb, type LightValues, type Region, type Triple } from '@tazzel/core';
import { type CameraDescription, chooseElements, defaultRequest, type Denoise, type DepthRange, displayViews, type DisplayView, elementRows, ELEMENT_SETS, FIRST_RANGE, type GroupGain, isInSet, kilnYard, type Layout, LIGHT_MIX, lightGroups, type MaterialLabel, parseSceneFile, type Progress, readScene, type Renderer, type Rendering, type RenderJob, type RenderRequest, type SaveSettings, type SceneDescription, type SceneSource, sceneWithMix, settingsOf, suggestDepthRange } from '@tazzel/renderer';
import { startWebRenderer } from '@tazzel/renderer/web';
import kernelsUrl from '@tazzel/kernels/kernels.wasm?url';
import { createStore } from 'zustand/vanilla';
import { needSharedMemory } from '../engine.ts';
import { keepSetting, setting } from '../storage/database.ts';

export interface Choices {
  readonly camera: string;
  /** Cameras as they were changed here, by name. */
  readonly cameras: Readonly<Record<string, CameraDescription>>;
  readonly width: number;
  readonly height: number;
  readonly elements: readonly string[];
  readonly stopsAtNoise: boolean;
  readonly noisePercent: number;
  readonly stopsAtTime: boolean;
  readonly seconds: number;
  readonly seed: number;
  readonly fog: boolean;
  readonly denoise: Denoise;
  readonly aoMetres: number;
  /** Null follows the suggestion. */
  readonly depthRange: DepthRange | null;
  readonly labels: Readonly<Record<string, MaterialLabel>>;
  readonly layout: Layout;
  readonly bits: SaveSettings['bits'];
}

export interface BenchState {
  /** Null while it is being made ready. */
  readonly scene: SceneDescription | null;
  readonly problem: string | null;
  readonly choices: Choices;
  readonly region: Region | null;
  readonly job: RenderJob | null;
  readonly progress: Progress | null;
  readonly views: readonly DisplayView[];
  /** Place of the shown picture among the views. */
  readonly shown: number;
  /** Whether light is shown as the denoiser leaves it. */
  readonly clean: boolean;
  readonly suggestedRange: DepthRange | null;
  /** How light groups are set, by their names: a mix is tried while the render runs. */
  readonly mix: Readonly<Record<string, LightValues>>;
}

export const FIRST_CHOICES: Choices = {
  camera: '',
  cameras: {},
  width: 960,
  height: 640,
  elements: chooseElements(['rebuild'], false),
  stopsAtNoise: true,
  noisePercent: 6,
  stopsAtTime: true,
  seconds: 300,
  seed: defaultRequest.seed,
  fog: false,
  denoise: defaultRequest.denoise,
  aoMetres: defaultRequest.aoMetres,
  depthRange: null,
  labels: {},
  layout: 'multi-part',
  bits: 16,
};
const SETTING = 'render-bench';
const NAMES = 'render-names';

export const isBusy = ({ job, progress }: BenchState): boolean => job !== null && progress?.stage !== 'done';

/** The chosen camera as it was changed here, or as it is in the scene. */
export const cameraOf = ({ scene, choices }: BenchState): CameraDescription | null => choices.cameras[choices.camera] ?? scene?.cameras.find(({ name }) => name === choices.camera) ?? null;

/** The colour of a group's lamps: that of the first, since those of one group are usually alike. The sky's is not known before it is rendered. */
function lampColour({ lamps, sun, materials }: SceneDescription, group: string): Triple | null {
  const shining = materials.flatMap(({ surface }) => (surface.kind === 'luminous' ? [surface] : []));
  const lamp = group === 'sun' ? sun : [...lamps, ...shining].find((each) => (each.group ?? 'rest') === group);
  return lamp ? (kelvinToLinearSrgb(lamp.kelvin).map((value, c) => value * (lamp.filter?.[c] ?? 1)) as unknown as Triple) : null;
}

export class RenderBench {
  readonly store = createStore<BenchState>(() => ({ scene: null, problem: null, choices: FIRST_CHOICES, region: null, job: null, progress: null, views: [], shown: 0, clean: false, suggestedRange: null, mix: {} }));
  readonly #tileListeners = new Set<(region: Region | null) => void>();
  #renderer: Promise<Renderer> | null = null;
  #opening = 0;
  /** As it was opened, without what the renderer adds. */
  #source: SceneSource = { description: kilnYard };

  /** Calls `listener` for each region with new samples; null when everything must be drawn again. */
  onTiles(listener: (region: Region | null) => void): () => void {
    this.#tileListeners.add(listener);
    return () => void this.#tileListeners.delete(listener);
  }

  #tell(region: Region | null): void {
    for (const listener of this.#tileListeners) listener(region);
  }

  async #start(): Promise<Renderer> {
    needSharedMemory();
    this.#renderer ??= startWebRenderer({ kernelsUrl, createWorker: (name) => new Worker(new URL('../render-worker.ts', import.meta.url), { type: 'module', name }) });
    try {
      return await this.#renderer;
    } catch (error) {
      // A start that failed, because the server was away, is tried again.
      this.#renderer = null;
      throw error;
    }
  }

  /** The built-in scene with the choices of last time, unless one is open already. */
  async begin(): Promise<void> {
    if (this.store.getState().scene || this.#opening > 0) return;
    const kept = await setting<Partial<Choices>>(SETTING, {});
    const known = elementRows.map(({ id }) => id);
    const elements = (kept.elements ?? FIRST_CHOICES.elements).filter((id) => known.includes(id));
    this.store.setState({ choices: { ...FIRST_CHOICES, ...kept, elements: elements.length > 0 ? elements : FIRST_CHOICES.elements } });
    await this.openScene({ description: kilnYard });
  }

  async openScene(source: SceneSource): Promise<void> {
    const turn = ++this.#opening;
    this.stop();
    await this.store.getState().job?.finished.catch(() => undefined);
    this.store.setState({ problem: null });
    try {
      const scene = await (await this.#start()).openScene(source);
      this.#source = source;
      if (turn !== this.#opening) return;
      const { choices } = this.store.getState();
      const sameScene = this.store.getState().scene?.name === scene.name || this.store.getState().scene === null;
      const camera = scene.cameras.find(({ name }) => name === choices.camera) ?? scene.cameras[0];
      const cameras = sameScene ? Object.fromEntries(Object.entries(choices.cameras).filter(([name]) => scene.cameras.some((one) => one.name === name))) : {};
      this.store.setState({ scene, job: null, progress: null, views: [], shown: 0, region: null, suggestedRange: null });
      this.choose({ camera: camera.name, cameras, labels: sameScene ? choices.labels : {}, fog: choices.fog && scene.fog !== null });
      this.#tell(null);
    } catch (error) {
      if (turn === this.#opening) this.store.setState({ problem: (error as Error).message });
      await this.#replaceBroken(error);
    } finally {
      if (turn === this.#opening) this.#opening = 0;
    }
  }

  choose(patch: Partial<Choices>): void {
    const choices = { ...this.store.getState().choices, ...patch };
    this.store.setState({ choices, problem: null });
    keepSetting(SETTING, choices);
    if (patch.labels) {
      const { job, shown } = this.store.getState();
      job?.relabel(choices.labels);
      if (job) {
        const views = displayViews(job.scene, job.request.elements);
        this.store.setState({ views, shown: Math.min(shown, views.length - 1) });
      }
      this.#tell(null);
    }
    if (patch.depthRange !== undefined) this.#tell(null);
  }

  setCamera(camera: CameraDescription): void {
    const { choices } = this.store.getState();
    this.choose({ cameras: { ...choices.cameras, [camera.name]: camera } });
  }

  request(): RenderRequest | null {
    const { choices, region } = this.store.getState();
    const camera = cameraOf(this.store.getState());
    if (!camera) return null;
    return {
      camera,
      width: choices.width,
      height: choices.height,
      elements: choices.elements,
      quality: { noisePercent: choices.stopsAtNoise ? choices.noisePercent : null, seconds: choices.stopsAtTime ? choices.seconds : null, samples: null },
      seed: choices.seed,
      fog: choices.fog,
      region,
      denoise: choices.denoise,
      aoMetres: choices.aoMetres,
      depthRange: null,
    };
  }

  async render(): Promise<void> {
    const request = this.request();
    if (!request || isBusy(this.store.getState())) return;
    const renderer = await this.#start();
    try {
      const job = renderer.begin(request, {
        onTile: (region) => this.#tell(region),
        onProgress: (progress) => {
          if (this.store.getState().job === job) this.store.setState({ progress });
        },
      });
      const { choices, views: before, shown } = this.store.getState();
      job.relabel(choices.labels);
      const views = displayViews(job.scene, job.request.elements);
      const same = views.findIndex((view) => view.element === before[shown]?.element && view.index === before[shown]?.index);
      this.store.setState({ job, views, shown: Math.max(0, same), clean: false, progress: job.progress, problem: null, suggestedRange: null });
      this.#tell(null);
      const watch = setInterval(() => this.store.setState({ suggestedRange: suggestDepthRange(job.film) }), 1000);
      await job.finished.finally(() => clearInterval(watch));
      if (this.store.getState().job !== job) return;
      this.store.setState({ suggestedRange: suggestDepthRange(job.film), clean: job.isClean });
      this.#tell(null);
    } catch (error) {
      this.store.setState({ problem: (error as Error).message });
      // What was refused left nothing running; what broke down while it ran is gone.
      if (isBusy(this.store.getState())) this.store.setState({ job: null, progress: null });
      await this.#replaceBroken(error);
    }
  }

  /** Workers that broke down do not come back; new ones do, with the scene that was open. */
  async #replaceBroken(error: unknown): Promise<void> {
    if ((error as { code?: string }).code !== 'worker-failed') return;
    const broken = this.#renderer;
    this.#renderer = null;
    await broken?.then((renderer) => renderer.terminate(), () => undefined);
    if (this.store.getState().scene) await this.#start().then((renderer) => renderer.openScene(this.#source)).catch(() => undefined);
  }

  stop(): void {
    this.store.getState().job?.stop();
  }

  /** What is shown, with the depth range that is chosen. */
  rendering(): Rendering | null {
    const { job, choices, suggestedRange } = this.store.getState();
    return job?.renderingWithin(choices.depthRange ?? suggestedRange ?? FIRST_RANGE) ?? null;
  }

  flip(by: number): void {
    const { views, shown } = this.store.getState();
    if (views.length > 0) this.show((shown + by + views.length) % views.length);
  }

  show(shown: number): void {
    this.store.setState({ shown });
    this.#tell(null);
  }

  /** Sets a light group of the mix, and shows the mix. */
  setLight(group: string, values: Partial<LightValues>): void {
    const { mix, views } = this.store.getState();
    this.store.setState({ mix: { ...mix, [group]: { ...(mix[group] ?? AS_RENDERED), ...values } } });
    const at = views.findIndex(({ element }) => element === LIGHT_MIX);
    if (at >= 0) this.show(at);
  }

  resetMix(): void {
    this.store.setState({ mix: {} });
    this.#tell(null);
  }

  /** What each group of the scene is multiplied with. */
  gains(): Triple[] {
    const { scene, mix } = this.store.getState();
    return scene ? lightGroups(scene).map((group) => gainOf(mix[group] ?? AS_RENDERED, lampColour(scene, group))) : [];
  }

  /** The scene as it was opened: what the renderer made of it has no shapes. */
  description(): SceneDescription {
    const source = this.#source;
    return readScene('description' in source ? source.description : parseSceneFile(source.file, source.fileName));
  }

  /** Writes a mix into the lamps of the scene that is open: the next render is lit by it. Without one it is the mix that is shown here, which is reset, or the light would be mixed twice. */
  async writeMix(given: readonly GroupGain[] | null = null): Promise<readonly string[]> {
    await this.begin();
    const { job } = this.store.getState();
    const scene = this.store.getState().scene && this.description();
    if (!scene) throw new Error(this.store.getState().problem ?? 'No scene is open in the render bench.');
    const gains = given ?? lightGroups(scene).map((name, i) => ({ name, gain: this.gains()[i] }));
    const { scene: relit, missing } = sceneWithMix(scene, gains, job?.exposureEv ? settingsOf(job.exposureEv) : null);
    if (missing.length === gains.length) throw new Error(`“${scene.name}”, which is open in the render bench, has none of these light groups. Open the scene that the document was rendered of there first.`);
    await this.openScene({ description: relit });
    this.store.setState({ mix: {} });
    return missing;
  }

  setClean(clean: boolean): void {
    this.store.setState({ clean });
    this.#tell(null);
  }

  setRegion(region: Region | null): void {
    this.store.setState({ region });
  }

  /** Ticks every element of a set and unticks the rest; with `fog`, what fog has. */
  chooseSet(set: (typeof ELEMENT_SETS)[number]): void {
    this.choose({ elements: elementRows.filter((row) => isInSet(row, set)).map(({ id }) => id) });
  }

  /** Files of the render, under a name that was not given before. */
  async files(settings: SaveSettings): Promise<{ stem: string; files: { name: string; parts: Uint8Array[] }[]; leftOut: readonly string[] }> {
    const { job, choices } = this.store.getState();
    if (!job) throw new Error('Nothing has been rendered yet. Start a render first.');
    const names = await setting<readonly string[]>(NAMES, []);
    const stem = job.fileStem((candidate) => names.includes(candidate));
    const { files, leftOut } = await job.save(job.request.elements, settings, stem, choices.depthRange);
    keepSetting(NAMES, [...names, stem]);
    return { stem, files, leftOut };
  }
}

export const bench = new RenderBench();
