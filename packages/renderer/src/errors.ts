export type RenderErrorCode =
  /** A scene that contradicts the description of scenes; the sentence names the field. */
  | 'bad-scene'
  /** A camera, element or setting that is not there. */
  | 'bad-request'
  /** More memory than may be used; the sentence names the figure. */
  | 'too-large'
  /** The workers broke down. */
  | 'worker-failed';

/** Why nothing is rendered: what was found, what was expected, what to do. */
export class RenderError extends Error {
  override readonly name = 'RenderError';
  constructor(
    readonly code: RenderErrorCode,
    message: string,
  ) {
    super(message);
  }
}
