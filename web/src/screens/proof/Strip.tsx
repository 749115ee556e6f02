/** The same tests on both sides: each column a test, the old side above, the new below. */
import { useRef } from "react";

import type { RunView } from "../../api/types";
import { useWidth } from "../../lib/width";
import { blocks, marks, names } from "./strip";

const FILL: Record<string, [string, string]> = {
  b: ["var(--day)", "var(--day)"],
  x: ["var(--day)", "var(--rose)"],
  o: ["var(--night)", "var(--night)"],
  g: ["var(--day)", "var(--unknown)"],
  n: ["var(--unknown)", "var(--amber)"],
  f: ["var(--dusk)", "var(--dusk)"],
};
const WORDS: Record<string, string> = { b: "alike on both sides", x: "pass on the old side and fail on the new", o: "fail on the old side already", g: "no longer run", n: "newly run", f: "answer differently when repeated" };
const HIGH = 18;

export function Strip({ run }: { run: RunView }) {
  const ref = useRef<HTMLDivElement>(null);
  const width = useWidth(ref, 1200);
  const all = blocks(run.groups, Math.max(width, 200));
  const total = run.groups.reduce((sum, group) => sum + group.codes.length, 0);
  return (
    <div ref={ref}>
      <svg width={Math.max(width, 200)} height={HIGH * 2 + 22} role="img" aria-label={`${total} tests in ${run.groups.length} groups`} className="block">
        {all.flatMap((block) =>
          marks(block).map((mark) => (
            <g key={`${block.name}${mark.x}`}>
              <title>{`${block.name}: ${mark.count} ${WORDS[mark.code] ?? ""}`}</title>
              <rect x={mark.x} y={0} width={mark.width} height={HIGH} fill={FILL[mark.code]?.[0]} />
              <rect x={mark.x} y={HIGH + 2} width={mark.width} height={HIGH} fill={FILL[mark.code]?.[1]} />
            </g>
          )),
        )}
        {names(all).map((name) => (
          <text key={name.name} x={name.x} y={HIGH * 2 + 17} textAnchor="middle" fontSize="12" fill="var(--ink2)">
            {name.name}
          </text>
        ))}
      </svg>
    </div>
  );
}
