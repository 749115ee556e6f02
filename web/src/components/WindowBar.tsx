/** Where each way is offered: the old way's bar with the bite at its end, the new way's bar, the overlap, here and goal. */
import type { Finding } from "../api/types";
import { windowShape } from "./windowGeometry";

const WIDTH = 262;

export function WindowBar({ finding }: { finding: Finding }) {
  const shape = windowShape(finding.window, WIDTH);
  const known = finding.window.state !== "unknown";
  const last = (path: string) => path.split(".").at(-1) ?? path;
  const name = last(finding.symbol);
  const ends = finding.title.includes(name) ? `${name.slice(0, 24)} gone` : "the old way ends";
  const whole = finding.replacement ?? "";
  const replacement = whole === "none" ? "without it" : whole.length < 36 ? whole : last(whole);
  return (
    <svg viewBox={`-2 0 ${WIDTH + 4} 96`} width="100%" role="img" aria-label={spoken(finding)}>
      {shape.both.map((bar) => (
        <rect key={bar.x} x={bar.x} y={16} width={bar.width} height={62} fill="var(--day)" opacity="0.55" />
      ))}
      {shape.old.map((bar) => (
        <rect key={bar.x} x={bar.x} y={24} width={bar.width} height={14} rx={2} fill="var(--dusk)" />
      ))}
      {shape.bite !== null && <path d={`M${shape.bite + 1.5} 23l4 8l-4 8`} fill="none" stroke="var(--rose)" strokeWidth="2" />}
      {shape.bite !== null && shape.bite < WIDTH * 0.55 && (
        <text x={shape.bite + 10} y={35} fontSize="10.5" fill="var(--ink)">
          {ends}
        </text>
      )}
      {known &&
        shape.fresh.map((bar) => (
          <g key={bar.x}>
            <rect x={bar.x} y={54} width={bar.width} height={14} rx={2} fill="var(--amber)" />
            {bar.width > replacement.length * 6 + 10 && (
              <text x={textStart(bar, shape.here, replacement.length * 6)} y={65} fontSize="10.5" fill="var(--on-light)">
                {replacement}
              </text>
            )}
          </g>
        ))}
      <path d={`M${shape.here} 14V80`} stroke="var(--press)" strokeWidth="1.6" />
      <path d={`M${shape.goal} 14V80`} stroke="var(--ink)" strokeWidth="1.2" strokeDasharray="2 2.5" />
      <text x={Math.min(Math.max(shape.here, 12), WIDTH - 12)} y={10} fontSize="11" fontWeight="700" textAnchor="middle" fill="var(--press)">
        here
      </text>
      {Math.abs(shape.goal - shape.here) > 30 && (
        <text x={Math.min(Math.max(shape.goal, 12), WIDTH - 12)} y={10} fontSize="11" textAnchor="middle" fill="var(--ink)">
          goal
        </text>
      )}
      {shape.labels.map((label) => (
        <text key={label.text} x={label.x} y={92} fontSize="10" textAnchor="middle" fill="var(--ink2)">
          {label.text}
        </text>
      ))}
    </svg>
  );
}

/** Where a bar's text begins: beside the line of today, where that leaves room. */
function textStart(bar: { x: number; width: number }, here: number, long: number): number {
  const crossed = here > bar.x && here < bar.x + 6 + long;
  return crossed && here + 6 + long < bar.x + bar.width ? here + 6 : bar.x + 6;
}

function spoken(finding: Finding): string {
  const { window } = finding;
  const old = window.old.length ? `the old way from ${window.old[0]} to ${window.old.at(-1)}` : "the old way on no captured line";
  const fresh = window.new.length ? `the new way from ${window.new[0]} to ${window.new.at(-1)}` : "no new way known";
  return `${finding.name}: ${old}; ${fresh}; here ${window.here}, goal ${window.goal}`;
}
