/** Days of work that are left over time, with the cone of what is expected and the ends of support as walls. */
import { useRef } from "react";

import type { ProofView } from "../../api/types";
import { day, effort, shortDay } from "../../lib/format";
import { useWidth } from "../../lib/width";
import { type Point, remaining } from "./remaining";

const HEIGHT = 120;
const path = (points: Point[]) => points.map((p, i) => `${i ? "L" : "M"}${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join("");

export function WorkLeft({ proof }: { proof: ProofView }) {
  const ref = useRef<HTMLDivElement>(null);
  const width = useWidth(ref, 1200);
  const row = proof.application;
  const wall = proof.walls[0];
  const made = remaining({ left: proof.left, today: proof.today, arrival50: row.arrival50, arrival80: row.arrival80, ends: proof.walls.map((w) => w.day), width: Math.max(width - 8, 200), height: HEIGHT });
  const now = proof.left.at(-1)?.days ?? 0;
  return (
    <section aria-label="Days of work left" className="border-t px-[22px] pt-2 pb-4 hair">
      <h2 className="text-[15.5px] font-bold">
        Days of work left: <span className="font-normal">{effort(now)}{row.arrival50 && now > 0 && `; arrives ${day(row.arrival50)} (80 %: ${day(row.arrival80)})`}</span>
      </h2>
      <div ref={ref}>
        <svg width={Math.max(width, 200)} height={HEIGHT + 44} role="img" aria-label={`${effort(now)} of work left`} className="block">
          <g transform="translate(2 20)">
            {made.cone.length > 0 && <path d={`${path(made.cone)}Z`} fill="var(--amber)" opacity="0.45" />}
            <path d={path(made.line)} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
            <path d={`M0 ${HEIGHT}H${Math.max(width - 8, 200)}`} stroke="var(--ink)" strokeWidth="1.2" />
            <path d={`M${made.today} -2V${HEIGHT}`} stroke="var(--press)" strokeWidth="1.6" />
            <text x={made.today} y={-7} textAnchor="middle" fontSize="12" fontWeight="600" fill="var(--press)">
              today
            </text>
            {made.arrival50 !== null && row.arrival50 && now > 0 && <Label x={made.arrival50} text={shortDay(row.arrival50)} />}
            {made.arrival80 !== null && row.arrival80 && now > 0 && made.arrival80 - (made.arrival50 ?? 0) > 70 && <Label x={made.arrival80} text={shortDay(row.arrival80)} />}
            {wall && <Wall x={made.at(wall.day)} text={`${wall.name} ends ${shortDay(wall.day)}`} most={Math.max(width - 8, 200)} />}
          </g>
        </svg>
      </div>
    </section>
  );
}

function Label({ x, text }: { x: number; text: string }) {
  return (
    <text x={x} y={HEIGHT + 16} textAnchor="middle" fontSize="12" fill="var(--ink2)">
      {text}
    </text>
  );
}

function Wall({ x, text, most }: { x: number; text: string; most: number }) {
  const right = x < most - 180;
  return (
    <g>
      <rect x={x - 4} y={6} width={8} height={HEIGHT - 6} fill="url(#light-dark)" />
      <text x={right ? x + 10 : x - 10} y={18} textAnchor={right ? "start" : "end"} fontSize="12" fontWeight="600" fill="var(--ink)">
        {text}
      </text>
    </g>
  );
}
