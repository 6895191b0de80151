/** First byte after the module's own data: from here the loader lays out registers and staging areas. */
export function heapStart(): usize {
  return __heap_base;
}
