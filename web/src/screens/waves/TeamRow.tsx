/** One team: its stages with their spread, the support ends they run up to, and how much of its days they take. */
import { type PointerEvent, useRef, useState } from "react";

import type { TeamWaves, WavesView } from "../../api/types";
import { DAY, dateOf, day, effort } from "../../lib/format";
import { at, type Bar, type Block, blocks, lanesHeight, mondayAt, months, openEnded, type Placed, type Scale, strip, STRIP_HEIGHT, walls } from "./geometry";
import { chance } from "./words";

type Props = {
  team: TeamWaves;
  view: WavesView;
  scale: Scale;
  count: number;
  label: number;
  height: number;
  chosen: string;
  moving: string | null;
  choose: (key: string, day?: string | null) => void;
  strip: boolean;
};

export function TeamRow({ team, view, scale, count, label, height, chosen, moving, choose, strip: withStrip }: Props) {
  const lanes = lanesHeight(team);
  return (
    <section aria-label={team.name} className="grid border-b hair" style={{ gridTemplateColumns: `${label}px 1fr`, height }}>
      <div className="min-w-0 pt-2 pr-3">
        <h2 className="truncate text-[15.5px] font-bold" title={team.name}>
          {team.name}
        </h2>
        <p className="quiet line-clamp-2 text-[12.5px] leading-tight" title={team.people.join(", ")}>
          {withStrip ? people(team) : team.people.join(", ")}
        </p>
      </div>
      <div className="relative overflow-hidden" style={{ width: scale.width }}>
        <Ground team={team} view={view} scale={scale} count={count} height={height} lanes={lanes} withStrip={withStrip} />
        {blocks(team, scale, !withStrip && team.stages.every((bar) => bar.name === team.name)).map((block) => (
          <StageBlock key={block.bar.key} block={block} scale={scale} today={view.today} chosen={chosen === block.bar.key} moving={chosen === block.bar.key ? moving : null} choose={choose} />
        ))}
        {openEnded(team, scale, view.today).map(({ bar, x, width, y, more }) => (
          <button
            key={bar.key}
            type="button"
            aria-pressed={chosen === bar.key}
            aria-label={`${bar.name} ${bar.number === 0 ? "before any move" : bar.number}, ${bar.title}: nobody knows when`}
            title={`${bar.name} ${bar.number || ""} · ${bar.title}\n${effort(bar.days)}; nobody knows when`}
            className={`absolute truncate rounded-[3px] border-2 border-dotted px-1.5 text-left text-[12.5px] leading-[22px] ${chosen === bar.key ? "z-[5] outline-2 outline-[var(--press)]" : ""}`}
            style={{ left: x, width, top: y, height: 26, borderColor: "var(--ink2)" }}
            onClick={() => choose(chosen === bar.key ? "" : bar.key)}
          >
            <b>
              {bar.name} {bar.number || ""}
            </b>{" "}
            <span className="quiet">nobody knows when{more > 0 ? `, and ${more} more` : ""}</span>
          </button>
        ))}
        {walls(team, scale).map((placed) => (
          <WallMark key={`${placed.wall.coordinate}${placed.wall.line}`} placed={placed} height={withStrip ? height - 8 : height - 2} words={withStrip ? lanes - 2 : null} />
        ))}
      </div>
    </section>
  );
}

/** What a team has, week by week, as one line. */
const edge = (weeks: Bar[], foot: number) => weeks.map((week, n) => `${n ? "V" : `M${week.x} `}${(foot - week.most).toFixed(1)}H${(week.x + week.width).toFixed(1)}`).join("");

function people(team: TeamWaves): string {
  if (team.vendor) return "their release is waited for";
  if (team.assumed) return `${team.days.toFixed(1)} d a week, assumed`;
  if (team.people.length === 0) return "nobody";
  return `${team.people.length} ${team.people.length === 1 ? "person" : "people"}, ${team.days.toFixed(1)} d a week`;
}

function Ground({ team, view, scale, count, height, lanes, withStrip }: { team: TeamWaves; view: WavesView; scale: Scale; count: number; height: number; lanes: number; withStrip: boolean }) {
  const now = at(scale, dateOf(view.today));
  const foot = lanes + STRIP_HEIGHT;
  const slugs = new Set(team.stages.map((bar) => bar.application));
  const freezes = view.freezes.filter((freeze) => freeze.applications.length === 0 || freeze.applications.some((slug) => slugs.has(slug)));
  return (
    <svg width={scale.width} height={height} aria-hidden="true" className="absolute inset-0 block">
      {freezes.map((freeze) => {
        const [left, right] = [at(scale, dateOf(freeze.first)), at(scale, dateOf(freeze.last) + DAY)];
        return (
          <rect key={freeze.first + freeze.title} x={left} width={Math.max(right - left, 1)} height={height} fill="var(--unknown)">
            <title>{`${freeze.title}: nothing goes live from ${day(freeze.first)} to ${day(freeze.last)}`}</title>
          </rect>
        );
      })}
      {months(scale).map((month) => (
        <path key={month.x} d={`M${month.x} 0V${height}`} stroke="var(--rule)" />
      ))}
      {withStrip && (
        <g>
          {strip(team, scale, count).map((week) => (
            <rect key={week.x} x={week.x + 0.5} y={foot - week.taken} width={Math.max(week.width - 1, 1)} height={week.taken} fill="var(--dusk)" opacity="0.32" />
          ))}
          <path d={edge(strip(team, scale, count), foot)} fill="none" stroke="var(--ink2)" strokeWidth="1.4" />
          <path d={`M0 ${foot + 0.5}H${scale.width}`} stroke="var(--rule)" />
        </g>
      )}
      <path d={`M${now} 0V${height}`} stroke="var(--press)" strokeWidth="1.6" />
    </svg>
  );
}

type BlockProps = { block: Block; scale: Scale; today: string; chosen: boolean; moving: string | null; choose: (key: string, day?: string | null) => void };

function StageBlock({ block, scale, today, chosen, moving, choose }: BlockProps) {
  const { bar } = block;
  const from = useRef<number | null>(null);
  const [shift, setShift] = useState(0);
  const moved = moving ? at(scale, dateOf(moving)) - block.x : 0;
  const x = block.x + (shift || moved);
  const put = (event: PointerEvent<HTMLButtonElement>) => {
    if (from.current === null) return;
    const by = event.clientX - from.current;
    from.current = null;
    setShift(0);
    if (Math.abs(by) > 6) choose(bar.key, mondayAt(scale, block.x + by, today));
    else choose(chosen ? "" : bar.key);
  };
  return (
    <>
      {block.middle !== null && block.spread !== null && !moved && !shift && <Spread middle={block.middle} spread={Math.min(block.spread, scale.width)} y={block.y} />}
      <button
        type="button"
        aria-pressed={chosen}
        aria-label={spoken(block)}
        title={`${bar.name} ${bar.number || ""} · ${bar.title}\n${effort(bar.days)}, live ${day(bar.live)}; 80 %: ${day(bar.p80)}`}
        className={`absolute touch-none overflow-hidden rounded-[3px] border px-1.5 text-left text-[12.5px] leading-[24px] font-semibold whitespace-nowrap ${bar.taken ? "" : "border-dashed"} ${chosen ? "z-[5] outline-2 outline-[var(--press)]" : ""}`}
        style={{ left: x, width: block.width, top: block.y, height: 26, background: "var(--sheet)", borderColor: "var(--ink)", paddingInline: block.width < 20 ? 1 : undefined }}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          from.current = event.clientX;
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onPointerMove={(event) => from.current !== null && setShift(Math.abs(event.clientX - from.current) > 6 ? event.clientX - from.current : 0)}
        onPointerUp={put}
        onPointerCancel={() => {
          from.current = null;
          setShift(0);
        }}
        onKeyDown={(event) => {
          const by = event.key === "ArrowRight" ? 7 : event.key === "ArrowLeft" ? -7 : 0;
          if (by) {
            event.preventDefault();
            choose(bar.key, mondayAt(scale, at(scale, dateOf(moving ?? bar.starts ?? today) + by * DAY), today));
          } else if (event.key === "Enter" || event.key === " ") {
            event.preventDefault();
            choose(chosen ? "" : bar.key);
          }
        }}
      >
        {bar.fixed && <span aria-hidden="true" className="mr-1 inline-block h-[8px] w-[8px] rounded-[1px] bg-[var(--press)] align-[1px]" />}
        {block.label}
      </button>
    </>
  );
}

function spoken({ bar }: Block): string {
  const late = bar.late !== null ? `, misses a support end with ${chance(bar.late)}` : "";
  return `${bar.name} ${bar.number === 0 ? "before any move" : bar.number}, ${bar.title}: from ${day(bar.starts)}, live ${day(bar.live)}, at 80 % ${day(bar.p80)}${late}`;
}

/** From the day at 50 % to the one at 80 %, fading. */
function Spread({ middle, spread, y }: { middle: number; spread: number; y: number }) {
  return (
    <span aria-hidden="true" className="pointer-events-none absolute block" style={{ left: middle, top: y + 6, height: 14, width: Math.max(spread - middle, 0), background: "linear-gradient(90deg, var(--amber), transparent)" }}>
      <span className="absolute top-[2px] -left-[5px] block h-[10px] w-[10px] rounded-full border" style={{ background: "var(--amber)", borderColor: "var(--ink)" }} />
    </span>
  );
}

/** ``words``: how far down they stand, clear of the stages; null for none. */
function WallMark({ placed, height, words }: { placed: Placed; height: number; words: number | null }) {
  const { wall, x, labelled, left } = placed;
  const risky = wall.chance >= 0.2;
  return (
    <div className="pointer-events-none absolute top-1" style={{ left: x - 4, height: height - 8 }}>
      <svg width="8" height={height - 8} className="block" role="img" aria-label={`${wall.name} ${wall.line} ends ${day(wall.end)}, missed with ${chance(wall.chance)}`}>
        <rect width="8" height={height - 8} fill="url(#light-dark)" />
      </svg>
      {labelled && words !== null && (
        <p className={`absolute rounded-sm px-1 text-[12px] leading-tight whitespace-nowrap ${left ? "right-[10px] text-right" : "left-[10px]"}`} style={{ top: words, background: "color-mix(in oklch, var(--paper) 82%, transparent)" }}>
          <b>
            {wall.name} {wall.line} ends
          </b>
          <br />
          <span className={risky ? "font-semibold text-[var(--rose-text)]" : "quiet"}>missed with {chance(wall.chance)}</span>
        </p>
      )}
    </div>
  );
}
