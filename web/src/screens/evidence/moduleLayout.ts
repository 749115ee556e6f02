/** Rows of folders: who uses others stands above whom it uses; folders of one loop stand side by side. Pure geometry. */
export type Part = { path: string; files: number; lines: number; cycle: number; level: number; fails: number; holds: number };
export type Edge = { source: string; target: string; count: number };
export type Box = Part & { x: number; y: number; width: number; height: number; label: string };
export type Line = Edge & { d: string; back: boolean };

const BOX = 46;
const GAP_Y = 62;
const GAP_X = 16;
const ARC = 30;
const LETTER = 7.1;

/** `more`: pixels that a box needs beside its name. */
export function layout(parts: Part[], edges: Edge[], width: number, more = 0): { boxes: Box[]; lines: Line[]; height: number } {
  const common = commonFolder(parts.map((p) => p.path));
  const levels = [...new Set(parts.map((p) => p.level))].sort((a, b) => b - a);
  const boxes: Box[] = [];
  const inRow = new Map(parts.map((p) => [p.path, p.level]));
  const named = new Set(edges.flatMap((e) => [e.source, e.target]));
  const alone = (part: Part) => (named.has(part.path) ? 0 : 1); // those that no line reaches go last, out of the way
  const arcs = edges.some((e) => inRow.get(e.source) === inRow.get(e.target));
  let y = arcs ? ARC + 4 : 8;
  for (const level of levels) {
    const row = parts.filter((p) => p.level === level).sort((a, b) => a.cycle - b.cycle || alone(a) - alone(b) || a.path.localeCompare(b.path));
    let x = 8;
    for (const part of row) {
      const label = shorter(part.path, common) || "top folder";
      const wide = Math.min(Math.max(label.length * LETTER + 22, 92), 240) + more;
      if (x + wide > width - 8 && x > 8) {
        x = 8;
        y += BOX + 26;
      }
      boxes.push({ ...part, label, x, y, width: wide, height: BOX });
      x += wide + GAP_X;
    }
    y += BOX + GAP_Y;
  }
  const at = new Map(boxes.map((b) => [b.path, b]));
  const lines = edges.flatMap((edge) => {
    const [from, to] = [at.get(edge.source), at.get(edge.target)];
    return from && to ? [{ ...edge, ...curve(from, to) }] : [];
  });
  return { boxes, lines, height: y - GAP_Y + (arcs ? ARC : 12) };
}

function curve(from: Box, to: Box): { d: string; back: boolean } {
  const back = to.y <= from.y;
  const [x1, x2] = [from.x + from.width / 2, to.x + to.width / 2];
  if (!back) {
    const [y1, y2] = [from.y + from.height, to.y - 5];
    const middle = (y1 + y2) / 2;
    return { d: `M${x1} ${y1}C${x1} ${middle} ${x2} ${middle} ${x2} ${y2}`, back };
  }
  if (to.y === from.y) {
    const side = x2 > x1 ? 1 : -1; // to the right above the boxes, to the left below them
    const [start, away] = side > 0 ? [from.y, from.y - ARC] : [from.y + BOX, from.y + BOX + ARC];
    return { d: `M${x1 + side * 8} ${start}C${x1 + side * 14} ${away} ${x2 - side * 14} ${away} ${x2 - side * 8} ${start - side * 4}`, back };
  }
  return { d: `M${from.x} ${from.y + 20}C${from.x - 40} ${from.y} ${to.x - 40} ${to.y + 30} ${to.x - 5} ${to.y + 24}`, back };
}

export function commonFolder(paths: string[]): string {
  const first = paths[0]?.split("/") ?? [];
  let length = first.length;
  for (const path of paths) {
    const parts = path.split("/");
    length = Math.min(length, parts.findIndex((p, i) => p !== first[i]) === -1 ? parts.length : parts.findIndex((p, i) => p !== first[i]));
  }
  return first.slice(0, length).join("/");
}

function shorter(path: string, common: string): string {
  return common && path.startsWith(`${common}/`) ? path.slice(common.length + 1) : path === common ? path.split("/").at(-1) ?? "" : path;
}
