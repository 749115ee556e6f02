/** The map of the code: area = lines, grouped by folder. Pure geometry. */
import { hierarchy, treemap, treemapSquarify } from "d3-hierarchy";

import type { MappedFile } from "../../api/types";

export type Tile = { path: string; name: string; folder: boolean; x: number; y: number; width: number; height: number; work: number; role: string; lines: number };
type Node = { name: string; path: string; lines: number; work: number; role: string; children?: Node[] };

/** Tiles of the files below ``within`` and of the folders that hold them, outermost first. */
export function tiles(files: MappedFile[], within: string, width: number, height: number): Tile[] {
  const root: Node = { name: within, path: within, lines: 0, work: 0, role: "source", children: [] };
  const prefix = within ? `${within}/` : "";
  for (const file of files) {
    if (!file.path.startsWith(prefix) || !file.lines) continue;
    insert(root, file.path.slice(prefix.length).split("/"), prefix, file, file.work);
  }
  if (!root.children?.length) return [];
  const start = firstFork(root);
  const tree = hierarchy(start).sum((n) => (n.children ? 0 : Math.max(n.lines, 1))).sort((a, b) => (b.value ?? 0) - (a.value ?? 0));
  const laid = treemap<Node>().tile(treemapSquarify).size([width, height]).paddingOuter((n) => (n.depth < 3 ? 1 : 0)).paddingTop((n) => (n.depth > 0 && n.depth < 3 && n.children ? 14 : 0)).paddingInner((n) => (n.depth < 3 ? 1.5 : 0.5))(tree);
  return laid.descendants().slice(1).filter((n) => n.depth < 3 || !n.children).map((n) => ({
    path: n.data.path, name: n.data.name, folder: !!n.children, x: n.x0, y: n.y0, width: Math.max(n.x1 - n.x0, 0), height: Math.max(n.y1 - n.y0, 0),
    work: n.data.work, role: n.data.role, lines: n.value ?? 0,
  }));
}

/** Folders that hold nothing but one folder are passed through. */
function firstFork(node: Node): Node {
  let at = node;
  while (at.children?.length === 1 && at.children[0]?.children) at = at.children[0];
  return at;
}

function insert(at: Node, parts: string[], prefix: string, file: MappedFile, work: number) {
  let node = at;
  let path = prefix.replace(/\/$/, "");
  parts.forEach((part, i) => {
    path = path ? `${path}/${part}` : part;
    const leaf = i === parts.length - 1;
    node.children ??= [];
    let next = node.children.find((c) => c.name === part);
    if (!next) {
      next = { name: part, path, lines: leaf ? file.lines : 0, work: 0, role: leaf ? file.role : "source", ...(leaf ? {} : { children: [] }) };
      node.children.push(next);
    }
    next.work += work;
    node = next;
  });
}

/** How dark a tile is: none, little, some, much; the word goes with it. */
export function shade(work: number, most: number): "none" | "little" | "some" | "much" {
  if (!work) return "none";
  const share = work / Math.max(most, 1);
  return share > 0.5 ? "much" : share > 0.15 ? "some" : "little";
}
