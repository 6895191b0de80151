export { type DeliverRequest, Engine, type EngineOptions, levelForZoom, type MeasuredLights, type PixelValues, type ViewRequest, type ViewResult } from './engine.ts';
export { type DeliveredFile, type DeliverListRequest, deliverList } from './deliver-list.ts';
export { Cancelled, EngineError, type EngineErrorCode } from './errors.ts';
export type { RebuildResult } from './rebuild-check.ts';
export { PRIORITY, TASKS_IN_FLIGHT, type TaskOptions, WorkerPool } from './pool.ts';
export { type FileRef, OUTPUT_BYTES, type OutputKind, type WorkerPort } from './protocol.ts';
export { sideBySide } from './side-by-side.ts';
export { FolderWatch, isHalfWritten, isPassedOver, type ListedFile } from './folder-watch.ts';
export { outlineOf } from './outline.ts';
