/** Steps that belong together, in one line: how many, whether they can be done now or what they wait for, and when they are planned. */
import type { StepGroup } from "../../api/types";
import { figure, minutes, plural, shortDay } from "../../lib/format";

type Props = { group: StepGroup; by: string; doable: boolean; open: boolean; withName: boolean; toggle: (group: StepGroup) => void };

export function GroupHead({ group, by, doable, open, withName, toggle }: Props) {
  const waits = group.waits[0];
  return (
    <button
      type="button"
      aria-expanded={open}
      onClick={() => toggle(group)}
      className="grid h-full w-full grid-cols-[14px_minmax(0,1fr)_minmax(0,210px)_110px_120px] items-center gap-3 border-b pr-4 pl-[22px] text-left text-[14px] hair hover:bg-[var(--hover)]"
      style={{ background: open ? "var(--sheet)" : "var(--paper)" }}
    >
      <svg width="10" height="10" viewBox="0 0 10 10" aria-hidden="true" style={{ transform: open ? "rotate(90deg)" : undefined }}>
        <path d="M3 1 7 5 3 9" fill="none" stroke="currentColor" strokeWidth="1.6" />
      </svg>
      <span className="min-w-0 truncate">
        <b>{by === "person" ? group.title : withName ? group.application : capital(group.title)}</b>
        {by === "stage" && withName && <span> {group.title}</span>}
      </span>
      <span className="min-w-0 truncate text-[13px]" title={group.waits.join("\n")}>
        {doable && (waits ? <span className="quiet">after {group.waits.length > 1 ? `${waits} and ${group.waits.length - 1} more` : waits}</span> : <span className="font-semibold text-[var(--press)]">can be done now</span>)}
      </span>
      <span className="quiet text-[13px]">
        {plural(group.steps, "step")}, {minutes(group.minutes)}
      </span>
      <span className="text-right text-[13px]">
        {group.late > 0 ? <b className="text-[var(--rose-text)]">{figure(group.late)} late</b> : group.again > 0 ? <b className="text-[var(--rose-text)]">{figure(group.again)} found again</b> : doable && group.live ? <span className="quiet">{group.stage === 0 ? "by" : "planned"} {shortDay(group.live)}</span> : ""}
      </span>
    </button>
  );
}

export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
