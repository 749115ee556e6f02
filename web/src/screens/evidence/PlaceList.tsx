/** The left side of Evidence by place: files with the most to do first, and what stands in each. */
import type { FilePlaces } from "../../api/types";
import { plural } from "../../lib/format";
import { shortened } from "./grouping";

type Props = { files: FilePlaces[]; total: number; current: { key: string; file: string }; open: (key: string, file: string, line: number) => void; more: (() => void) | null };

export function PlaceList({ files, total, current, open, more }: Props) {
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
          {group.findings.map(({ key, title, lines }) => {
            const here = key === current.key && group.file === current.file;
            return (
              <button
                key={key}
                type="button"
                aria-current={here}
                className={`flex w-full items-baseline justify-between gap-3 py-0.5 pr-3.5 pl-[34px] text-left text-[12.8px] ${here ? "sheet font-semibold" : "quiet hover:bg-[var(--hover)]"}`}
                onClick={() => open(key, group.file, lines[0] ?? 1)}
              >
                <code className="min-w-0 truncate">{shortened(title)}</code>
                <span className="shrink-0">
                  {lines.slice(0, 4).join(", ")}
                  {lines.length > 4 ? " …" : ""}
                </span>
              </button>
            );
          })}
        </section>
      ))}
      {more && (
        <button type="button" className="press m-3 ml-[22px]" onClick={more}>
          Show more of {plural(total, "file")}
        </button>
      )}
    </div>
  );
}
