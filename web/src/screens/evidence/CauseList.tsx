/** The left side of Evidence by cause: as many lines as there are findings, of which those in sight are loaded. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useEffect, useMemo, useRef } from "react";

import { type FindingFilter, findingsQuery } from "../../api/queries";
import type { Cause, FindingRow } from "../../api/types";
import { figure, plural } from "../../lib/format";
import { usePages } from "../../lib/pages";
import { lineAt, lineCount, lineOf } from "../../lib/sections";
import { shortened, summary, whenWord } from "./grouping";

const ROW = 52;
const HEAD = 32;

type Props = { slug: string; scan: number; filter: FindingFilter; causes: Cause[]; current: { key: string; index: number }; open: (finding: FindingRow, index: number) => void };

export function CauseList({ slug, scan, filter, causes, current, open }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const counts = useMemo(() => causes.map((cause) => cause.findings), [causes]);
  const total = counts.reduce((sum, held) => sum + held, 0);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made for being read while rendering
  const lines = useVirtualizer({ count: lineCount(counts, total), getScrollElement: () => host.current, estimateSize: (at) => (lineAt(counts, at)?.kind === "head" ? HEAD : ROW), overscan: 8, useFlushSync: false });
  const items = lines.getVirtualItems();
  const indices = items.map((item) => lineAt(counts, item.index)).flatMap((line) => (line?.kind === "row" ? [line.index] : []));
  const row = usePages(indices[0] ?? 0, indices.at(-1) ?? 0, (page) => findingsQuery(slug, scan, filter, page));
  useEffect(() => {
    if (current.index >= 0) lines.scrollToIndex(lineOf(counts, current.index), { align: "auto" });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a change of the current finding moves the list
  }, [current.index]);
  return (
    <div ref={host} className="scrolls min-h-0 grow overflow-auto" tabIndex={0} role="region" aria-label="Findings">
      <div className="relative" style={{ height: lines.getTotalSize() }}>
        {items.map((item) => {
          const line = lineAt(counts, item.index);
          const cause = line?.kind === "head" ? causes[line.section] : undefined;
          const finding = line?.kind === "row" ? row(line.index) : undefined;
          return (
            <div key={item.key} className="absolute inset-x-0" style={{ height: item.size, transform: `translateY(${item.start}px)` }}>
              {cause && (
                <h2 className="quiet truncate border-b px-[22px] py-1.5 text-[12.5px] hair" style={{ background: "var(--paper)" }}>
                  {cause.title} · {plural(cause.findings, "finding")}, {plural(cause.places, "place")}
                </h2>
              )}
              {line?.kind === "row" && finding && <FindingLine finding={finding} index={line.index} current={finding.key === current.key} open={open} />}
            </div>
          );
        })}
      </div>
    </div>
  );
}

/** Drawn again only when what it says changes: a list that scrolls asks for all its lines at every step. */
const FindingLine = memo(function FindingLine({ finding, index, current, open }: { finding: FindingRow; index: number; current: boolean; open: Props["open"] }) {
  const title = finding.kind === "package" || finding.kind === "toolchain" || finding.kind === "behaviour" ? finding.title : shortened(finding.title);
  return (
    <button
      type="button"
      aria-current={current}
      className={`block h-full w-full border-b py-[7px] pr-3.5 pl-[22px] text-left leading-[1.3] hair ${current ? "sheet" : "hover:bg-[var(--hover)]"}`}
      style={current ? { boxShadow: "inset 3px 0 var(--press)" } : undefined}
      onClick={() => open(finding, index)}
    >
      <span className="flex items-baseline justify-between gap-3">
        <code className={`min-w-0 truncate font-semibold ${finding.waived ? "line-through" : ""}`} title={finding.title}>
          {title}
        </code>
        <b className="text-[13px]">{figure(finding.places)}</b>
      </span>
      <span className="quiet flex items-baseline justify-between gap-3 text-[12.5px]">
        <span className="min-w-0 truncate">{summary(finding)}</span>
        <span className="shrink-0">
          {finding.change === "new" && <b className="text-[var(--rose-text)]">new · </b>}
          {finding.waived ? "waived" : whenWord(finding)}
        </span>
      </span>
    </button>
  );
});
