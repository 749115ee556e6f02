/** A long list in sections, each with a head: positions that do not depend on what is loaded. Without sections there are no heads. */
export type SectionLine = { kind: "head"; section: number } | { kind: "row"; index: number };

/** Lines of the list: every section and every row has one. */
export function lineCount(sections: number[], rows: number): number {
  return sections.length === 0 ? rows : sections.reduce((sum, held) => sum + 1 + held, 0);
}

/** What stands at a line: a head, or a row by its number among all. */
export function lineAt(sections: number[], at: number): SectionLine | null {
  if (sections.length === 0) return { kind: "row", index: at };
  let left = at;
  let index = 0;
  for (const [section, held] of sections.entries()) {
    if (left === 0) return { kind: "head", section };
    if (left <= held) return { kind: "row", index: index + left - 1 };
    left -= held + 1;
    index += held;
  }
  return null;
}

/** The line at which a row stands. */
export function lineOf(sections: number[], index: number): number {
  let before = 0;
  let heads = 0;
  for (const held of sections) {
    heads += 1;
    if (index < before + held) break;
    before += held;
  }
  return index + heads;
}
