/** Files that would change: ticked in and out, one of them looked at. */
import type { EditedFile } from "../../api/types";
import { plural } from "../../lib/format";
import { without } from "./choice";

type Props = { files: EditedFile[]; left: Set<string>; leave: (paths: Set<string>) => void; shown: string; show: (path: string) => void };

export function Files({ files, left, leave, shown, show }: Props) {
  if (files.length === 0) return null;
  return (
    <section aria-label="Files" className="mb-4">
      <h2 className="mb-1 text-[15.5px] font-bold">{plural(files.length - left.size, "file")}</h2>
      <ul>
        {files.map((file) => (
          <li key={file.path} className={`flex items-center gap-2 rounded px-1 ${file.path === shown ? "sheet outline outline-[var(--line)]" : ""}`}>
            <input type="checkbox" aria-label={`Change ${file.path}`} className="checkbox checkbox-xs" checked={!left.has(file.path)} onChange={() => leave(without(left, file.path))} />
            <button type="button" className="flex min-w-0 grow items-baseline justify-between gap-2 py-0.5 text-left text-[13px]" aria-current={file.path === shown} onClick={() => show(file.path)}>
              <code className={`truncate ${left.has(file.path) ? "quiet line-through" : ""}`} title={file.path} dir="rtl">
                {`\u200e${file.path}`}
              </code>
              <span className="quiet shrink-0 text-[12.5px] tabular-nums">
                −{file.gone} +{file.came}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
