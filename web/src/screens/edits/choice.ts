/** A set with one thing put in or taken out. */
export function without(chosen: ReadonlySet<string>, one: string): Set<string> {
  const next = new Set(chosen);
  if (!next.delete(one)) next.add(one);
  return next;
}

/** A new name beside the old one: only its last part where the rest is the same. */
export function shortened(old: string, made: string): string {
  const home = old.slice(0, old.lastIndexOf(".") + 1);
  return home && made.startsWith(home) && !made.slice(home.length).includes(".") ? made.slice(home.length) : made;
}

/** A row cut where it is marked: parts in order, each marked or not. */
export function parts(text: string, marks: readonly (readonly [number, number])[]): { text: string; marked: boolean }[] {
  const found: { text: string; marked: boolean }[] = [];
  let at = 0;
  for (const [from, to] of marks) {
    if (from > at) found.push({ text: text.slice(at, from), marked: false });
    found.push({ text: text.slice(from, to), marked: true });
    at = to;
  }
  if (at < text.length || found.length === 0) found.push({ text: text.slice(at), marked: false });
  return found;
}

export type Row = { kind: "same" | "gone" | "new"; old: number; new: number; text: string; marks: [number, number][] };

/** Rows of a hunk as pairs: what went beside what came in its place. */
export function pairs(rows: readonly Row[]): [Row | null, Row | null][] {
  const found: [Row | null, Row | null][] = [];
  let gone: Row[] = [];
  let came: Row[] = [];
  const flush = () => {
    for (let i = 0; i < Math.max(gone.length, came.length); i++) found.push([gone[i] ?? null, came[i] ?? null]);
    gone = [];
    came = [];
  };
  for (const row of rows) {
    if (row.kind === "gone") {
      if (came.length) flush();
      gone.push(row);
    } else if (row.kind === "new") came.push(row);
    else {
      flush();
      found.push([row, row]);
    }
  }
  flush();
  return found;
}
