/** Why, what to write instead, the window, where the knowledge came from, and the waiver. */
import { Link } from "react-router";

import type { Evidence, Finding } from "../../api/types";
import { Explain } from "../../components/Explain";
import { WindowBar } from "../../components/WindowBar";
import { minutes, plural } from "../../lib/format";
import { WaiverPart } from "./WaiverPart";

export function FindingDetail({ finding, evidence }: { finding: Finding; evidence: Evidence }) {
  const short = (path: string) => path.split(".").slice(-2).join(".");
  const replaced = finding.replacement && finding.replacement !== "none";
  return (
    <div className="flex flex-col gap-4 p-[18px] text-[14px]">
      <div>
        <h2 className="text-[16px] leading-snug font-bold break-words">
          {replaced ? `${short(finding.symbol)} → ${short(finding.replacement ?? "")}` : finding.title}
        </h2>
        <p className="quiet">{windowSentence(finding)}</p>
      </div>
      {replaced && (
        <Section title="replacement">
          <code className="break-all">{finding.replacement}</code>
          {finding.remedy && <p className="mt-1">{finding.remedy}</p>}
        </Section>
      )}
      {!replaced && finding.remedy && <Section title="what to do">{finding.remedy}</Section>}
      {finding.window.axis.length > 1 && finding.kind !== "package" && finding.kind !== "toolchain" && (
        <Section title={`where each way is offered, ${finding.name}`}>
          <WindowBar finding={finding} />
        </Section>
      )}
      <Section title="evidence">
        {finding.evidence.length === 0 && <p className="quiet">the file itself</p>}
        {finding.evidence.map((line) => (
          <p key={line}>{line}</p>
        ))}
        <p className="quiet">
          {finding.confidence}
          {finding.after ? `; between ${finding.after} and ${finding.bites_line ?? ""} no line was captured` : ""}
        </p>
      </Section>
      <Section title="work">
        <p>
          {plural(finding.place_count, "place")} in {plural(finding.file_count, "file")}
          {finding.mechanical ? " · the same edit each time" : ""}
        </p>
        {finding.copies_only && <p className="quiet">none of its own: it goes when the copies are renewed or made again, which are findings too</p>}
        {finding.level !== "note" && !finding.copies_only && (
          <Explain label="Show how the effort is estimated" figure={`${minutes(finding.minutes_likely)} likely, ${minutes(finding.minutes_high)} at most`}>
            The first place in full, every further place at a repeat factor{finding.mechanical ? ", and a short review because the edit is mechanical" : ""}. The weights stand in the{" "}
            <Link className="underline" to="/knowledge">
              Knowledge screen
            </Link>
            .
          </Explain>
        )}
        {!finding.copies_only && <p className="quiet">{finding.stage === 0 ? "before any version moves" : `with stage ${finding.stage} of the path`}</p>}
      </Section>
      <WaiverPart finding={finding} slug={evidence.application.slug} />
    </div>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section>
      <h3 className="quiet mb-0.5 text-[12.5px]">{title}</h3>
      {children}
    </section>
  );
}

function windowSentence(finding: Finding): string {
  if (finding.copies_only) return "Breaks only in code that is not written here: nobody changes it line by line.";
  const both = finding.window.both;
  const span = both.length > 1 ? `in every version from ${both[0]} to ${both.at(-1)}` : both.length === 1 ? `in ${both[0]}` : "";
  if (finding.level === "note" && finding.kind === "deprecated") return `Works at the goal, with a warning${finding.bites_line ? `; gone at ${finding.bites_line}` : ""}.`;
  switch (finding.window.state) {
    case "now":
      if (!both.includes(finding.window.here)) return `Gone on ${finding.window.here} already, and what takes its place is there: change it now.`;
      return finding.replacement === "none" ? "Safe to change now: what is written instead works on today’s line too." : `Safe to change now: both ways are offered ${span}.`;
    case "hop":
      return `Change it on the way: both ways are offered ${span}.`;
    case "switch":
      return "No version offers both ways: change it exactly at the hop, or switch on the version.";
    default:
      return finding.bites_at ? `Bites at ${finding.name} ${finding.bites_line ?? ""}; no replacement is known.` : "Warns only.";
  }
}
