/** A list with one of its elements elsewhere. */
export function moved<T>(list: readonly T[], from: number, to: number): T[] {
  const rest = [...list];
  const [one] = rest.splice(from, 1);
  if (one === undefined) return rest;
  rest.splice(Math.min(Math.max(to, 0), rest.length), 0, one);
  return rest;
}
