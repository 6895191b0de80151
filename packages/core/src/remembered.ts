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

/** What is made of a seed stays for the last few: whoever turns through the seeds does not come back to them. */
export function rememberedLast<V>(most: number, make: (seed: number) => V): (seed: number) => V {
  const known = new Map<number, V>();
  return (seed) => {
    let made = known.get(seed);
    if (made === undefined) {
      made = make(seed);
      if (known.size >= most) known.delete([...known.keys()][0]);
      known.set(seed, made);
    }
    return made;
  };
}
