/** Findings in the order and groups in which they are read. */
import type { Finding } from "../../api/types";

export type Group = { title: string; findings: Finding[] };
export type Show = "all" | "now" | "hop" | "switch" | "new" | "notes";
export type Where = "anywhere" | "source" | "test" | "other";

export const WINDOW_WORDS: Record<string, string> = { now: "now", hop: "at the hop", switch: "needs a switch", unknown: "not known" };

export function shownBy(finding: Finding, show: Show): boolean {
  if (show === "all") return true;
  if (show === "notes") return finding.level === "note";
  if (show === "new") return finding.change === "new";
  return finding.level !== "note" && finding.window.state === show;
}

/** Findings with only those places that stand in such files; none left means the finding is not shown. */
export function standing(findings: Finding[], where: Where, within: string): Finding[] {
  if (where === "anywhere" && !within) return findings;
  const inside = (file: string) => !within || file === within || file.startsWith(`${within}/`);
  const fits = (role: string) => where === "anywhere" || (where === "other" ? role === "vendored" || role === "generated" : role === where);
  return findings.flatMap((finding) => {
    const places = finding.places.filter((p) => fits(p.role) && inside(p.file));
    return places.length ? [{ ...finding, places }] : [];
  });
}

export function matches(finding: Finding, text: string): boolean {
  const all = [finding.title, finding.symbol, finding.kind, finding.name, finding.replacement, finding.bites_at, ...finding.places.map((p) => p.file)].join(" ").toLowerCase();
  return text.toLowerCase().split(/\s+/).every((word) => all.includes(word));
}

/** By cause: what bites first comes first; notes (guarded, deprecated) apart at the end. */
export function byCause(findings: Finding[]): Group[] {
  const groups = new Map<string, Finding[]>();
  for (const finding of findings) {
    const title = groupTitle(finding);
    groups.set(title, [...(groups.get(title) ?? []), finding]);
  }
  return [...groups].map(([title, held]) => ({ title, findings: held }));
}

function groupTitle(finding: Finding): string {
  if (finding.level === "note") return finding.kind === "deprecated" ? "deprecated, works at the goal" : "guarded, or later than the goal";
  if (finding.kind === "package") return "packages";
  if (finding.kind === "toolchain") return "toolchain";
  return finding.bites_line ? `bites at ${finding.name} ${finding.bites_line}` : "warns";
}

export type FileGroup = { file: string; findings: { finding: Finding; lines: number[] }[]; places: number };

/** By place: files with the most to do first. */
export function byFile(findings: Finding[]): FileGroup[] {
  const files = new Map<string, Map<Finding, number[]>>();
  for (const finding of findings) {
    for (const place of finding.places) {
      const held = files.get(place.file) ?? new Map<Finding, number[]>();
      held.set(finding, [...(held.get(finding) ?? []), place.line]);
      files.set(place.file, held);
    }
  }
  return [...files]
    .map(([file, held]) => ({
      file,
      findings: [...held].map(([finding, lines]) => ({ finding, lines })),
      places: [...held].reduce((sum, [f, lines]) => sum + (f.level === "note" ? 0 : lines.length), 0),
    }))
    .sort((a, b) => b.places - a.places || a.file.localeCompare(b.file));
}
