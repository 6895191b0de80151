/** Bytes in words, as coarse as one reads them. */
export const bytesText = (bytes: number): string => (bytes < 2 ** 30 ? `${bytes < 1e6 && bytes > 0 ? '< 1' : Math.round(bytes / 2 ** 20)} MB` : `${(bytes / 2 ** 30).toFixed(1)} GB`);
