/** The track of a path on a scale of work: where each stage begins and ends. Pure geometry. */
import type { Stage } from "../../api/types";

export type Piece = { number: number; label: string; from: number; to: number; tone: "day" | "amber" | "rose" | "dusk" };

export function pieces(stages: Stage[]): Piece[] {
  let reached = 0;
  return stages.map((stage, i) => {
    const from = reached;
    reached = Math.max(stage.reached50, from);
    const label = stage.number === 0 ? "today" : stage.moves.map((move) => move.goal).join(" · ");
    const tones = ["amber", "rose", "dusk"] as const;
    return { number: stage.number, label, from, to: reached, tone: stage.number === 0 ? "day" : (tones[(i - 1) % 3] ?? "amber") };
  });
}

/** A round step for a scale of about six marks. */
export function scaleMarks(most: number): number[] {
  const rough = Math.max(most, 0.1) / 5;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => n >= rough) ?? power * 10;
  return Array.from({ length: Math.floor(most / step + 1e-9) + 1 }, (_, i) => Number((i * step).toFixed(4)));
}
