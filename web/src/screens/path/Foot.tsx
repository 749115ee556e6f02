/** What one can do with the way looked at: take it, compare it, carry it away. */
import { Link } from "react-router";

import { API } from "../../api/address";
import type { PathView, Way } from "../../api/types";
import { queryOf } from "./shape";

const FORMS = [
  ["markdown", "Markdown"],
  ["mermaid", "Mermaid"],
  ["csv", "CSV"],
  ["json", "JSON"],
] as const;

type Props = { path: PathView; way: Way; params: URLSearchParams; take: () => void; busy: boolean; compare: (key: string | null) => void };

export function Foot({ path, way, params, take, busy, compare }: Props) {
  const others = path.ways.filter((w) => w.key !== way.key);
  const against = others.some((w) => w.key === params.get("against")) ? (params.get("against") ?? "") : "";
  const query = queryOf(params);
  const written = (form: string) => `${API}/applications/${encodeURIComponent(path.application.slug)}/path/written?form=${form}&way=${encodeURIComponent(way.key)}${query ? `&${query}` : ""}`;
  return (
    <div className="flex w-[180px] flex-col gap-3">
      {way.recommended && (
        <p className="text-[13px] leading-snug">
          <b>Recommended:</b> {way.recommended}.
        </p>
      )}
      {!way.recommended && way.reasons.length > 0 && <p className="quiet text-[13px] leading-snug">{way.reasons.join(". ")}.</p>}
      {way.key === "piecewise" && (
        <Link className="link text-[13px]" to={`/applications/${path.application.slug}/crossing`}>
          Move its routes on Crossing
        </Link>
      )}
      {way.adopted ? (
        <p className="text-[13.5px]">This path is adopted.</p>
      ) : (
        <button type="button" className="press press-main h-9" disabled={busy || way.key === "taken"} onClick={take}>
          Adopt this path
        </button>
      )}
      {others.length > 0 && (
        <label className="text-[13px]">
          <span className="quiet block">compare with</span>
          <select className="field h-7 w-full" value={against} onChange={(e) => compare(e.target.value || null)}>
            <option value="">nothing</option>
            {others.map((w) => (
              <option key={w.key} value={w.key}>
                {w.title}
              </option>
            ))}
          </select>
        </label>
      )}
      <p className="text-[13px]">
        <span className="quiet">export as </span>
        {FORMS.map(([form, label], i) => (
          <span key={form}>
            {i > 0 && ", "}
            <a className="underline" href={written(form)} download>
              {label}
            </a>
          </span>
        ))}
      </p>
    </div>
  );
}
