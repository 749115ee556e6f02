/** Places of the parts of a route: a column for each step from the handler, and lines between them. */
import type { PartBox, PartLine } from "../../api/types";

export const COLUMN = 236;
export const WIDTH = 196;
export const ROW = 46;
export const HEIGHT = 38;

export type Placed = { box: PartBox; x: number; y: number };

/** Each part in the column of its depth, in the order it came: the longest first. */
export function placed(boxes: readonly PartBox[]): Placed[] {
  const used = new Map<number, number>();
  return boxes.map((box) => {
    const row = used.get(box.depth) ?? 0;
    used.set(box.depth, row + 1);
    return { box, x: box.depth * COLUMN, y: row * ROW };
  });
}

/** How large the picture is. */
export function extent(all: readonly Placed[]): { width: number; height: number } {
  return { width: Math.max(0, ...all.map((each) => each.x + WIDTH)), height: Math.max(0, ...all.map((each) => each.y + HEIGHT)) };
}

/** A soft line from the right edge of one part to the left edge of another; back or within a column it leaves and arrives at the right. */
export function curve(from: Placed, to: Placed): string {
  const [x1, y1, y2] = [from.x + WIDTH, from.y + HEIGHT / 2, to.y + HEIGHT / 2];
  const forward = to.x > from.x;
  const x2 = forward ? to.x : to.x + WIDTH;
  const bend = forward ? (x2 - x1) / 2 : 26;
  return `M${x1} ${y1}C${x1 + bend} ${y1} ${forward ? x2 - bend : x2 + bend} ${y2} ${x2} ${y2}`;
}

/** The lines that touch a part. */
export function touching(lines: readonly PartLine[], at: number): Set<number> {
  return new Set(lines.flatMap((line) => (line.source === at ? [line.target] : line.target === at ? [line.source] : [])));
}
