/** What is found in a list or a document is found once: neither ever changes. */
export function remembered<K extends object, V>(find: (of: K) => V): (of: K) => V {
  const known = new WeakMap<K, V>();
  return (of) => {
    let found = known.get(of);
    if (found === undefined) {
      found = find(of);
      known.set(of, found);
    }
    return found;
  };
}
