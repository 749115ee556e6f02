/** One file, old beside new, with what differs marked inside its rows. */
import { useQuery } from "@tanstack/react-query";

import { editedFileQuery } from "../../api/queries";
import { Failed, Waiting } from "../../components/States";
import { pairs, parts, type Row } from "./choice";

export function Sides({ slug, at, path }: { slug: string; at: string; path: string }) {
  const query = useQuery(editedFileQuery(slug, at, path));
  if (query.isPending) return <Waiting what="the file" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  return (
    <div className="min-h-0 grow overflow-auto" tabIndex={0} role="region" aria-label={`${path}, old beside new`}>
      <table className="code w-full table-fixed border-separate border-spacing-0 text-[12.5px] leading-[1.55]">
        <thead>
          <tr className="text-left">
            <th scope="col" className="border-b px-3 py-1 font-normal hair quiet">
              today
            </th>
            <th scope="col" className="border-b border-l px-3 py-1 font-normal hair">
              {path}
            </th>
          </tr>
        </thead>
        {query.data.hunks.map((hunk, at) => (
          <tbody key={hunk.rows[0] ? `${hunk.rows[0].old} ${hunk.rows[0].new}` : at}>
            {at > 0 && (
              <tr aria-hidden="true">
                <td className="h-3 border-b border-dashed hair" />
                <td className="h-3 border-b border-l border-dashed hair" />
              </tr>
            )}
            {pairs(hunk.rows as Row[]).map(([left, right], i) => (
              <tr key={i} className="align-top">
                <Side row={left} number={left?.old ?? 0} />
                <Side row={right} number={right?.new ?? 0} second />
              </tr>
            ))}
          </tbody>
        ))}
      </table>
    </div>
  );
}

function Side({ row, number, second = false }: { row: Row | null; number: number; second?: boolean }) {
  const changed = row !== null && row.kind !== "same";
  const tint = changed ? (row.kind === "gone" ? "color-mix(in srgb, var(--dusk) 13%, transparent)" : "color-mix(in srgb, var(--amber) 20%, transparent)") : undefined;
  return (
    <td className={`py-0 pr-3 pl-[58px] -indent-[46px] whitespace-pre-wrap [overflow-wrap:anywhere] ${second ? "border-l hair" : ""}`} style={{ background: tint }}>
      {row && (
        <>
          <span className="quiet mr-[10px] inline-block w-9 text-right indent-0 select-none" aria-hidden="true">
            {number || ""}
          </span>
          {changed ? <span className="sr-only">{row.kind === "gone" ? "went: " : "came: "}</span> : null}
          {parts(row.text, row.marks).map((part, i) => (part.marked ? <Marked key={i} text={part.text} gone={row.kind === "gone"} /> : <span key={i}>{part.text}</span>))}
        </>
      )}
    </td>
  );
}

function Marked({ text, gone }: { text: string; gone: boolean }) {
  return gone ? (
    <del className="rounded-[2px] decoration-[1.5px]" style={{ background: "color-mix(in srgb, var(--dusk) 28%, transparent)" }}>
      {text}
    </del>
  ) : (
    <ins className="rounded-[2px] font-semibold no-underline" style={{ background: "color-mix(in srgb, var(--amber) 45%, transparent)" }}>
      {text}
    </ins>
  );
}
