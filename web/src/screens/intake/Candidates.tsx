/** What would be taken in, row by row, every fault told. */
import type { Candidate } from "../../api/types";

export function Candidates({ candidates }: { candidates: Candidate[] }) {
  const ordered = [...candidates].sort((a, b) => Number(b.faults.length > 0) - Number(a.faults.length > 0) || a.number - b.number);
  return (
    <div className="max-h-[60vh] overflow-auto" tabIndex={0} role="region" aria-label="Rows">
      <table className="w-full text-[14px]">
        <thead>
          <tr className="quiet border-b text-left text-[13px] hair">
            {["row", "name", "source", "owner", "team", "destination"].map((name) => (
              <th key={name} className="py-1 pr-3 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ordered.map((c) => (
            <tr key={c.number} className="border-b align-top hair">
              <td className="quiet py-1 pr-3">{c.number}</td>
              <td className="py-1 pr-3 font-semibold break-words">{c.name}</td>
              <td className="py-1 pr-3">
                <code className="break-all">
                  {c.source}
                  {c.ref && ` @ ${c.ref}`}
                  {c.subfolder && ` / ${c.subfolder}`}
                </code>{" "}
                <span className="quiet">{c.kind}</span>
                {c.faults.map((fault) => (
                  <p key={fault} style={{ color: "var(--rose-text)" }}>
                    {fault}
                  </p>
                ))}
              </td>
              <td className="py-1 pr-3">{c.owner}</td>
              <td className="py-1 pr-3">{c.team}</td>
              <td className="py-1">{c.destination}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
