/** Weeks as lengths: where stages, walls and freezes stand on the axis of the waves. Pure geometry. */
import type { TeamWaves, Wall, WaveBar } from "../../api/types";
import { DAY, dateOf } from "../../lib/format";

export const LANE = 34;
const TOP = 6;
const STRIP = 42;
const LETTER = 6.9;
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
const WALL_ROOM = 150;
const NAMED = 170;

export type Scale = { start: number; end: number; width: number };
export type Block = { bar: WaveBar; x: number; width: number; y: number; label: string; middle: number | null; spread: number | null; later: boolean };
export type Month = { x: number; label: string };
export type Placed = { wall: Wall; x: number; labelled: boolean; left: boolean };
export type Bar = { x: number; width: number; most: number; taken: number };

/** The axis over ``weeks`` weeks from the Monday of this one. */
export function scaleOf(weeks: string[], count: number, width: number): Scale {
  const start = dateOf(weeks[0] ?? "2026-01-05");
  return { start, end: start + Math.max(count, 1) * 7 * DAY, width };
}

/** Where a moment stands, not kept on the axis. */
export function at(scale: Scale, moment: number): number {
  return ((moment - scale.start) / (scale.end - scale.start)) * scale.width;
}

/** The evening of a day: where something ends that has it as its last day. */
const evening = (iso: string) => dateOf(iso) + DAY;

export function rowHeight(team: TeamWaves): number {
  const lanes = Math.max(1, ...team.stages.map((bar) => bar.lane + 1));
  return TOP + lanes * LANE + STRIP + 10;
}

export function lanesHeight(team: TeamWaves): number {
  return TOP + Math.max(1, ...team.stages.map((bar) => bar.lane + 1)) * LANE;
}

/** Stages that begin on the axis, each with as much of its name as fits; ``titled``: of where it leads, where the row has its name. */
export function blocks(team: TeamWaves, scale: Scale, titled = false): Block[] {
  return team.stages.flatMap((bar) => {
    if (!bar.starts || !bar.ends) return [];
    const x = at(scale, dateOf(bar.starts));
    if (x >= scale.width) return [];
    const right = Math.min(at(scale, evening(bar.ends)), scale.width);
    const width = Math.max(right - x - 1, 3);
    const middle = bar.p50 ? at(scale, evening(bar.p50)) : null;
    const spread = bar.p80 ? at(scale, evening(bar.p80)) : null;
    return [{ bar, x, width, y: TOP + bar.lane * LANE, label: labelOf(titled ? { ...bar, name: bar.title } : bar, width), middle, spread, later: at(scale, evening(bar.ends)) > scale.width }];
  });
}

/** Stages that are never reached, side by side in the lane that they share, from today on: as many as have room for a name. */
export function openEnded(team: TeamWaves, scale: Scale, today: string): { bar: WaveBar; x: number; width: number; y: number; more: number }[] {
  const held = team.stages.filter((bar) => !bar.starts);
  const from = Math.max(at(scale, dateOf(today)), 0);
  const shown = held.slice(0, Math.max(1, Math.floor((scale.width - from) / NAMED)));
  const each = (scale.width - from) / Math.max(shown.length, 1);
  return shown.map((bar, n) => ({ bar, x: from + n * each, width: each - 2, y: TOP + bar.lane * LANE, more: n === shown.length - 1 ? held.length - shown.length : 0 }));
}

/** The name with the number of the stage, the number alone, or nothing: whatever fits. */
export function labelOf(bar: WaveBar, width: number): string {
  const number = bar.number === 0 ? "" : ` ${bar.number}`;
  const whole = `${bar.name}${number}`;
  if (whole.length * LETTER + 14 <= width) return whole;
  const room = Math.floor((width - 14) / LETTER) - number.length - 1;
  if (room >= 4) return `${bar.name.slice(0, room)}…${number}`;
  return number !== "" && width >= 16 ? number.trim() : "";
}

export function months(scale: Scale): Month[] {
  const found: Month[] = [];
  const first = new Date(scale.start);
  for (let i = 0; i < 60; i += 1) {
    const moment = Date.UTC(first.getUTCFullYear(), first.getUTCMonth() + i, 1);
    if (moment >= scale.end) break;
    const date = new Date(moment);
    const x = Math.max(at(scale, moment), 0);
    const january = date.getUTCMonth() === 0;
    const label = `${MONTHS[date.getUTCMonth()] ?? ""}${january || i === 0 ? ` ${date.getUTCFullYear()}` : ""}`;
    const before = found.at(-1);
    if (before && x - before.x < before.label.length * 8 + 8) {
      if (i === 1) found.pop();
      else continue;
    }
    found.push({ x, label });
  }
  return found;
}

/** Support ends on the axis, their words beside them where there is room, to the left near the right border. */
export function walls(team: TeamWaves, scale: Scale): Placed[] {
  const ahead = team.walls.filter((wall) => !wall.past && at(scale, evening(wall.end)) <= scale.width);
  let taken = -Infinity;
  return ahead.map((wall) => {
    const x = at(scale, evening(wall.end));
    const left = x > scale.width - WALL_ROOM;
    const labelled = (left ? x - WALL_ROOM : x) >= taken;
    if (labelled) taken = x + (left ? 12 : WALL_ROOM);
    return { wall, x, labelled, left };
  });
}

/** A bar a week: how much a team has and how much of it is taken, as heights of the strip. */
export function strip(team: TeamWaves, scale: Scale, count: number): Bar[] {
  const most = Math.max(...team.capacity.slice(0, count), ...team.used.slice(0, count), 0.01);
  const wide = scale.width / count;
  return team.capacity.slice(0, count).map((days, week) => ({
    x: week * wide,
    width: wide,
    most: (days / most) * (STRIP - 6),
    taken: ((team.used[week] ?? 0) / most) * (STRIP - 6),
  }));
}

/** The Monday that a block would begin on when it is let go ``x`` pixels from the left. */
export function mondayAt(scale: Scale, x: number, today: string): string {
  const weeks = Math.round(((x / scale.width) * (scale.end - scale.start)) / (7 * DAY));
  const monday = scale.start + weeks * 7 * DAY;
  const day = new Date(Math.max(monday, dateOf(today)));
  return day.toISOString().slice(0, 10);
}

export const STRIP_HEIGHT = STRIP;
