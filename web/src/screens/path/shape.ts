/** How a reader bends the search, as it stands in the address: pins, lines to avoid, an order, parts left out. */
export const KEYS = ["pin", "avoid", "order", "out", "drop"] as const;
export type Key = (typeof KEYS)[number];

export type Bend = Record<Key, string[]>;

export function bendOf(params: URLSearchParams): Bend {
  return Object.fromEntries(KEYS.map((key) => [key, params.getAll(key)])) as Bend;
}

export function isBent(bend: Bend): boolean {
  return KEYS.some((key) => bend[key].length > 0);
}

/** The address with one more wish, or with it taken back when it was there. */
export function toggled(params: URLSearchParams, key: Key, value: string): URLSearchParams {
  const next = new URLSearchParams(params);
  const others = params.getAll(key).filter((held) => held !== value);
  next.delete(key);
  for (const held of others) next.append(key, held);
  if (others.length === params.getAll(key).length) next.append(key, value);
  return next;
}

/** The address with the only pin (or line to avoid) of a coordinate changed; an empty line takes it back. */
export function withLine(params: URLSearchParams, key: "pin" | "avoid", short: string, line: string): URLSearchParams {
  const next = new URLSearchParams(params);
  const others = params.getAll(key).filter((held) => held.slice(0, held.lastIndexOf("@")) !== short);
  next.delete(key);
  for (const held of others) next.append(key, held);
  if (line) next.append(key, `${short}@${line}`);
  return next;
}

export function unbent(params: URLSearchParams): URLSearchParams {
  const next = new URLSearchParams(params);
  for (const key of KEYS) next.delete(key);
  return next;
}

/** The part of the address that the server needs. */
export function queryOf(params: URLSearchParams): string {
  const kept = new URLSearchParams();
  for (const key of ["set", ...KEYS]) for (const value of params.getAll(key)) kept.append(key, value);
  return kept.toString();
}
