/** Every package against the destination: what holds, what does not, what is not known. */
import type { Evidence, Package } from "../../api/types";

const ORDER = ["fails", "unknown", "holds"];
const WORDS: Record<string, string> = { fails: "does not fit", unknown: "not known", holds: "fits" };

export function Packages({ evidence }: { evidence: Evidence }) {
  const packages = [...evidence.packages].sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state) || a.name.localeCompare(b.name));
  if (packages.length === 0) return <p className="quiet p-[22px]">No manifest here asks for a package.</p>;
  return (
    <div className="overflow-auto p-[22px]">
      <table className="w-full max-w-6xl text-[14px]">
        <thead>
          <tr className="quiet border-b text-left text-[13px] hair">
            <th className="py-1 font-normal">package</th>
            <th className="font-normal">today</th>
            <th className="font-normal">at {evidence.application.destination_lines.join(", ")}</th>
            <th className="font-normal">newest that fits</th>
            <th className="font-normal">stated in</th>
          </tr>
        </thead>
        <tbody>
          {packages.map((p) => (
            <PackageRow key={p.coordinate + p.module} item={p} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function PackageRow({ item }: { item: Package }) {
  return (
    <tr className="border-b align-top hair">
      <td className="py-1.5 pr-4">
        <code className="font-semibold">{item.name}</code>
      </td>
      <td className="pr-4">
        {item.line || "not stated"} <span className="quiet">{item.line ? item.how : ""}</span>
      </td>
      <td className="pr-4">
        <b className={item.state === "fails" ? "text-[var(--rose-text)]" : item.state === "unknown" ? "quiet" : ""}>{WORDS[item.state]}</b> <span className="quiet">{item.note}</span>
      </td>
      <td className="pr-4">{item.suggestion}</td>
      <td>
        <code className="quiet">{item.where}</code>
      </td>
    </tr>
  );
}
