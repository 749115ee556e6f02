/** The left side of Evidence: findings grouped by cause, or by place. */
import { useEffect, useRef } from "react";

import type { Finding } from "../../api/types";
import { plural } from "../../lib/format";
import { byFile, type Group, WINDOW_WORDS } from "./grouping";

type Props = { groups: Group[]; current: string | null; open: (finding: Finding) => void };

export function CauseList({ groups, current, open }: Props) {
  const list = useRef<HTMLDivElement>(null);
  useEffect(() => {
    list.current?.querySelector('[aria-current="true"]')?.scrollIntoView({ block: "nearest" });
  }, [current]);
  return (
    <div ref={list}>
      {groups.map((group) => (
        <section key={group.title} aria-label={group.title}>
          <h2 className="quiet sticky top-0 z-[1] border-b px-[22px] py-1.5 text-[12.5px] hair" style={{ background: "var(--paper)" }}>
            {group.title} · {plural(group.findings.reduce((n, f) => n + f.places.length, 0), "place")}
          </h2>
          {group.findings.map((finding) => (
            <FindingLine key={finding.key} finding={finding} current={finding.key === current} open={open} />
          ))}
        </section>
      ))}
    </div>
  );
}

function FindingLine({ finding, current, open }: { finding: Finding; current: boolean; open: (finding: Finding) => void }) {
  const title = finding.kind === "package" || finding.kind === "toolchain" || finding.kind === "behaviour" ? finding.title : shortened(finding.title);
  return (
    <button
      type="button"
      aria-current={current}
      className={`block w-full border-b py-[7px] pr-3.5 pl-[22px] text-left leading-[1.35] hair ${current ? "sheet" : "hover:bg-[var(--hover)]"}`}
      style={current ? { boxShadow: "inset 3px 0 var(--press)" } : undefined}
      onClick={() => open(finding)}
    >
      <span className="flex items-baseline justify-between gap-3">
        <code className={`min-w-0 truncate font-semibold ${finding.waiver ? "line-through" : ""}`} title={finding.title}>
          {title}
        </code>
        <b className="text-[13px]">{finding.places.length}</b>
      </span>
      <span className="quiet flex items-baseline justify-between gap-3 text-[12.5px]">
        <span className="min-w-0 truncate">{summary(finding)}</span>
        <span className="shrink-0">
          {finding.change === "new" && <b className="text-[var(--rose-text)]">new · </b>}
          {finding.waiver ? "waived" : whenWord(finding)}
        </span>
      </span>
    </button>
  );
}

function whenWord(finding: Finding): string {
  if (finding.level === "note") return "";
  if (finding.kind === "toolchain" || finding.kind === "package") return finding.bites_line ? `with ${finding.bites_line}` : "";
  return WINDOW_WORDS[finding.window.state] ?? "";
}

/** The last two or three parts say what it is; the tooltip has all. */
function shortened(path: string): string {
  const parts = path.split(".");
  return parts.length > 3 ? parts.slice(-2).join(".") : path;
}

function summary(finding: Finding): string {
  if (finding.level === "warning" && finding.confidence === "possible") return "may fail; not certain";
  if (finding.kind === "deprecated") return "works, with a warning";
  if (finding.replacement === "none") return finding.remedy || "drop it";
  if (finding.replacement) return `${finding.kind}; use ${finding.replacement}`;
  return finding.remedy || finding.kind;
}

export function PlaceList({ findings, current, open }: { findings: Finding[]; current: { key: string | null; file: string }; open: (finding: Finding, file: string, line: number) => void }) {
  const files = byFile(findings);
  const most = Math.max(...files.map((f) => f.places), 1);
  return (
    <div>
      {files.map((group) => (
        <section key={group.file} aria-label={group.file} className="border-b py-1.5 hair">
          <h2 className="flex items-center gap-2 px-[22px] text-[13px]">
            <span aria-hidden="true" className="h-2 shrink-0 rounded-sm" style={{ width: 4 + (38 * group.places) / most, background: group.places ? "var(--dusk)" : "var(--rule)" }} />
            <code className="min-w-0 truncate font-semibold" title={group.file} dir="rtl">
              &lrm;{group.file}
            </code>
          </h2>
          {group.findings.map(({ finding, lines }) => (
            <button
              key={finding.key}
              type="button"
              aria-current={finding.key === current.key && group.file === current.file}
              className={`flex w-full items-baseline justify-between gap-3 py-0.5 pr-3.5 pl-[34px] text-left text-[12.8px] ${finding.key === current.key && group.file === current.file ? "sheet font-semibold" : "quiet hover:bg-[var(--hover)]"}`}
              onClick={() => open(finding, group.file, lines[0] ?? 1)}
            >
              <code className="min-w-0 truncate">{shortened(finding.title)}</code>
              <span className="shrink-0">
                {lines.slice(0, 4).join(", ")}
                {lines.length > 4 ? " …" : ""}
              </span>
            </button>
          ))}
        </section>
      ))}
    </div>
  );
}
