/** What a report can be about, and the addresses of its forms. */
import { API } from "../../api/address";

export type Form = { word: string; address: string; title?: string };
export type Source = { page: string; forms: Form[] };

/** ``about``: empty for the portfolio, “board”, “team:…”, “digest:DAYS”, or the address of an application. */
export function sourceOf(about: string): Source {
  const [kind, ...rest] = about.split(":");
  const of = encodeURIComponent(rest.join(":"));
  if (kind === "board" || kind === "team") {
    const page = `${API}/reports/board${kind === "team" ? `?team=${of}` : "?team="}`;
    return { page, forms: [{ word: "Page", address: `${page}&download=true` }, { word: "Mermaid", address: `${page}&form=mermaid` }] };
  }
  if (kind === "digest") {
    const page = `${API}/digest/written?days=${of}`;
    return {
      page,
      forms: [
        { word: "Page", address: `${page}&download=true` },
        { word: "Mail", address: `${page}&form=mail` },
        { word: "Feed", address: `${API}/digest/written?form=atom`, title: "An address for a feed reader: one entry a week" },
      ],
    };
  }
  const page = about ? `${API}/reports/applications/${encodeURIComponent(about)}` : `${API}/reports/portfolio`;
  const forms: Form[] = (
    [
      ["html", "Page"],
      ["csv", "CSV"],
      ["sarif", "SARIF"],
      ["cyclonedx", "Inventory"],
    ] as const
  ).map(([form, word]) => ({ word, address: `${page}?form=${form}&download=true` }));
  if (about) forms.push({ word: "Waivers", address: `${API}/applications/${encodeURIComponent(about)}/waivers`, title: "For builds: yoake scan --waivers FILE" });
  return { page, forms };
}
