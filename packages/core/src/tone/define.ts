/** How a tone is declared: the curve by which scene light becomes the light of the picture at the tone line. Once, in one file; bench, schema, command line and docs are generated from it. */
import { CoreError } from '../errors.ts';
import { choice } from '../params/choice.ts';
import { faultOf, type ParamTable, type ParamValues } from '../params/table.ts';

/** A point on the drawn curve that can be dragged: across in stops of light from mid grey, up in picture values from 0 to 1. */
export interface ToneHandle<P extends ParamTable = ParamTable> {
  readonly label: string;
  readonly at: (params: ParamValues<P>) => readonly [stops: number, value: number];
  /** What becomes of the parameters when it is put there; ranges are kept by whoever sets them. */
  readonly drag: (params: ParamValues<P>, to: readonly [stops: number, value: number]) => Partial<ParamValues<P>>;
}

export interface ToneSpec<P extends ParamTable = ParamTable> {
  /** Kebab-case, never reused for something else. */
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  readonly params: P;
  /** Light from 0 on, of one channel, to light of the picture, where 1 is white; it must rise. Null leaves light as it is: what is brighter than 1 is white. */
  readonly curve: ((params: ParamValues<P>) => (light: number) => number) | null;
  /** Instead of a curve: a packed table of colours that makes picture values of light (see color/lut.ts). Null is straight. */
  readonly table?: (params: ParamValues<P>) => Float32Array | null;
  readonly handles?: readonly ToneHandle<P>[];
  /** Parameter sets that the shared suite runs. */
  readonly examples: readonly ParamValues<P>[];
  readonly source: string;
}

/** What the curve is applied to. */
const carries = choice({ label: 'Works on', options: { channels: 'Each channel', brightest: 'The brightest channel' }, default: 'channels', help: 'Each channel: bright colours fade to white, as on film. The brightest: the others keep their proportion to it, so that hue and saturation stay.' });

/** Checks a declaration and forgets the exact parameter names, so that all tones fit one registry. @throws CoreError `bad-parameter` */
export function defineTone<const P extends ParamTable>(spec: ToneSpec<P>): ToneSpec {
  const fault = faultOf(spec.params);
  if (fault) throw new CoreError('bad-parameter', `${spec.id}, ${fault}`);
  const params: ParamTable = spec.curve ? { ...spec.params, carries } : spec.params;
  return { ...spec, params, examples: spec.examples.map((example) => ({ ...(spec.curve ? { carries: 'channels' } : {}), ...example })) } as unknown as ToneSpec;
}
