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

export type Row = { kind: "same" | "gone" | "new"; old: number; new: number; text: string; beside: number; marks: [number, number][] };

/** Rows of a hunk as pairs: what went beside what came in its place, and alone where nothing did. */
export function pairs(rows: readonly Row[]): [Row | null, Row | null][] {
  const found: [Row | null, Row | null][] = [];
  let came: Row[] = [];
  let gone: Row[] = [];
  const flush = () => {
    for (const row of gone) {
      while (row.beside && came[0] && came[0].new < row.beside) found.push([null, came.shift() ?? null]);
      found.push([row, row.beside && came[0]?.new === row.beside ? (came.shift() ?? null) : null]);
    }
    for (const row of came) found.push([null, row]);
    gone = [];
    came = [];
  };
  for (const row of rows) {
    if (row.kind === "same") {
      flush();
      found.push([row, row]);
    } else {
      if (row.kind === "gone" && came.length) flush();
      (row.kind === "gone" ? gone : came).push(row);
    }
  }
  flush();
  return found;
}
