/** Ways on a common scale of work: where each stage begins and ends, and what ties rows of the grid. Pure geometry. */
import type { Stage, TrackView, Way } from "../../api/types";

export type Tone = "day" | "amber" | "rose" | "dusk";
export type Piece = { number: number; label: string; from: number; to: number; tone: Tone };

export function pieces(way: Way, tracks: TrackView[]): Piece[] {
  let reached = 0;
  const last = way.stages.length - 1;
  return way.stages.map((stage) => {
    const from = reached;
    reached = Math.max(stage.reached50, from);
    const tone: Tone = stage.number === 0 ? "day" : way.strategy === "direct" ? "dusk" : stage.number === last ? "rose" : "amber";
    return { number: stage.number, label: stageLabel(stage, way, tracks), from, to: reached, tone };
  });
}

/** The lines of the destination that a stage moves; its own title where a strategy names its stages. */
export function stageLabel(stage: Stage, way: Way, tracks: TrackView[]): string {
  if (stage.number === 0) return "today";
  if (stage.title) return stage.title;
  if (way.strategy === "direct") return "all at once";
  const named = new Set(tracks.filter((t) => t.named).map((t) => t.coordinate));
  return stage.cells.filter((c) => c.moved && named.has(c.coordinate)).map((c) => c.line).join(" · ") || "packages";
}

/** A round step for a scale of about six marks. */
export function scaleMarks(most: number): number[] {
  const rough = Math.max(most, 0.1) / 5;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= rough) ?? power * 10;
  return Array.from({ length: Math.floor(most / step + 1e-9) + 1 }, (_, i) => Number((i * step).toFixed(4)));
}

/** A bracket beside rows that move together: from the first to the last, with a square in the middle. Null for fewer than two. */
export function bracket(rows: number[], height: number): { top: number; size: number; path: string; square: number } | null {
  if (rows.length < 2) return null;
  const [first, last] = [Math.min(...rows), Math.max(...rows)];
  const size = (last - first) * height;
  const ticks = rows.map((row) => `M0 ${(row - first) * height}H12`).join("");
  return { top: first * height + height / 2, size, path: `${ticks}M12 0V${size}`, square: size / 2 };
}

/** Coordinates in the order of the grid: runtimes and the destination first; those that never move are told apart. */
export function gridRows(way: Way, tracks: TrackView[]): { shown: TrackView[]; still: TrackView[] } {
  const moving = new Set(way.stages.flatMap((s) => s.cells.filter((c) => c.moved).map((c) => c.coordinate)));
  return { shown: tracks.filter((t) => t.named || moving.has(t.coordinate)), still: tracks.filter((t) => !t.named && !moving.has(t.coordinate)) };
}
