/** Where each test of a strip stands: groups side by side with room between them, as wide as their tests. Pure geometry. */
import type { TestGroup } from "../../api/types";

export type Block = { name: string; x: number; width: number; codes: string };
export type Mark = { x: number; width: number; code: string; count: number };

const GAP = 12;

/** Groups along a width; each test is as wide as any other. */
export function blocks(groups: TestGroup[], width: number): Block[] {
  const total = groups.reduce((sum, group) => sum + group.codes.length, 0);
  if (total === 0) return [];
  const room = Math.max(width - GAP * (groups.length - 1), width / 2);
  const gap = groups.length > 1 ? (width - room) / (groups.length - 1) : 0;
  let x = 0;
  return groups.map((group) => {
    const block = { name: group.name, x, width: (group.codes.length / total) * room, codes: group.codes };
    x += block.width + gap;
    return block;
  });
}

/** Runs of equal letters in a block as one mark each, so that thousands of tests are few shapes. What is not alike is never narrower than two pixels. */
export function marks(block: Block): Mark[] {
  const each = block.width / block.codes.length;
  const found: Mark[] = [];
  for (let at = 0; at < block.codes.length; ) {
    const code = block.codes[at] ?? "b";
    let end = at;
    while (block.codes[end] === code) end += 1;
    found.push({ x: block.x + at * each, width: (end - at) * each, code, count: end - at });
    at = end;
  }
  return found.map((mark) => (mark.code === "b" ? mark : { ...mark, width: Math.max(mark.width, 2) }));
}

/** Names below their blocks, those left out that would touch the one before. */
export function names(all: Block[], perLetter = 6.6): { name: string; x: number }[] {
  const found: { name: string; x: number }[] = [];
  let free = -Infinity;
  for (const block of all) {
    const middle = block.x + block.width / 2;
    const half = (block.name.length * perLetter) / 2;
    if (middle - half < free) continue;
    found.push({ name: block.name, x: middle });
    free = middle + half + 8;
  }
  return found;
}
