/** What was last made from which input, so that an edit elsewhere does not make it again. */

/** A function that keeps its last results by a key. @param most how many, the oldest of which go first */
export function memoize<T>(max: number): (key: string, make: () => T) => T {
  const kept = new Map<string, T>();
  return (key, make) => {
    const found = kept.get(key);
    if (found !== undefined) return found;
    const made = make();
    if (kept.size >= max) kept.delete(kept.keys().next().value!);
    kept.set(key, made);
    return made;
  };
}

/** A function of an object that is worked out once for each. */
export function memoizeByObject<K extends WeakKey, T>(make: (of: K) => T): (of: K) => T {
  const kept = new WeakMap<K, T>();
  return (of) => {
    let found = kept.get(of);
    if (found === undefined) kept.set(of, (found = make(of)));
    return found;
  };
}
