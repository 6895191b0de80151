/** Runs a task for each item, some at a time; results stand in the order of the items. */
export async function sideBySide<T, R>(items: readonly T[], atOnce: number, task: (item: T, place: number) => Promise<R>): Promise<R[]> {
  const results = new Array<R>(items.length);
  let next = 0;
  const work = async () => {
    for (let i = next++; i < items.length; i = next++) results[i] = await task(items[i], i);
  };
  await Promise.all(Array.from({ length: Math.min(atOnce, items.length) }, work));
  return results;
}
