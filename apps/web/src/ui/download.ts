export function download(name: string, parts: readonly BlobPart[], type: string): void {
  const url = URL.createObjectURL(new Blob([...parts], { type }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 60_000);
}
