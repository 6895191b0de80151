export function isStale(stamp: string, inputs: readonly string[]): boolean;
export function touch(stamp: string): void;
