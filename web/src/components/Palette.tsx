/** The palette: every screen, application, finding of the open application, and action, by typing. */
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";

import { findingsQuery, portfolioQuery, WHOLE } from "../api/queries";
import { useScans } from "./useScans";

type Props = { close: () => void; slug: string | null; turnTheme: () => void; showKeys: () => void };

export function Palette({ close, slug, turnTheme, showKeys }: Props) {
  const go = useNavigate();
  const [typed, setTyped] = useState("");
  const text = useDeferredValue(typed);
  const rows = useQuery(portfolioQuery({ ...WHOLE, q: text.slice(0, 200) })).data?.rows ?? [];
  const findings = useQuery({ ...findingsQuery(slug ?? "", 0, { show: "all", where: "anywhere", within: "", q: text }), enabled: slug !== null }).data?.rows ?? [];
  const run = (action: () => void) => () => {
    close();
    action();
  };
  const { scan } = useScans();
  return (
    <Command.Dialog open onOpenChange={(open) => !open && close()} label="Palette" contentClassName="dialog fixed left-1/2 top-[14vh] z-50 w-[36rem] max-w-[92vw] -translate-x-1/2 overflow-hidden" overlayClassName="fixed inset-0 z-40 bg-black/35">
      <Command.Input autoFocus value={typed} onValueChange={setTyped} placeholder="Go to, or do …" className="w-full border-b bg-transparent px-4 py-3 outline-none hair" />
      <Command.List className="max-h-[50vh] overflow-auto p-2">
        <Command.Empty className="quiet p-3">No matches.</Command.Empty>
        <Group heading="Screens">
          {[["Horizon", "/"], ["Waves", "/waves"], ["Forecast", "/waves/forecast"], ["Who requires whom", "/waves/links"], ["Teams and days off", "/waves/teams"], ["Work", "/work"], ["Knowledge", "/knowledge"], ["Report", "/report"], ["Add applications", "/take-in"], ["History", "/events"]].map(([name, to]) => (
            <Item key={name} text={name ?? ""} run={run(() => void go(to ?? "/"))} />
          ))}
        </Group>
        <Group heading="Actions">
          <Item text="Scan all applications" run={run(() => scan({ applications: [], text: () => "All applications are in the queue." }))} />
          {slug && <Item text={`Scan ${slug}`} run={run(() => scan({ applications: [slug], text: () => `${slug} is in the queue.` }))} />}
          <Item text="Switch the theme" run={run(turnTheme)} />
          <Item text="Show the keyboard" run={run(showKeys)} />
        </Group>
        {slug && (
          <Group heading={`Findings of ${slug}`}>
            {findings.map((f) => (
              <Item key={f.key} text={f.title} note={f.bites_line ? `at ${f.bites_line}` : f.kind} value={`${f.title} ${text}`} run={run(() => void go(`/applications/${slug}?finding=${f.key}`))} />
            ))}
          </Group>
        )}
        <Group heading="Applications">
          {rows.map((row) => (
            <Item key={row.slug} text={row.name} note={row.team} value={`${row.name} ${row.slug} ${text}`} run={run(() => void go(`/applications/${row.slug}`))} />
          ))}
        </Group>
      </Command.List>
    </Command.Dialog>
  );
}

function Group({ heading, children }: { heading: string; children: React.ReactNode }) {
  return (
    <Command.Group heading={heading} className="mb-2 [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-[12px] [&_[cmdk-group-heading]]:text-[var(--ink2)]">
      {children}
    </Command.Group>
  );
}

function Item({ text, note, value, run }: { text: string; note?: string; value?: string; run: () => void }) {
  return (
    <Command.Item value={value ?? `${text} ${note ?? ""}`} onSelect={run} className="flex cursor-pointer justify-between gap-3 rounded px-2 py-1.5 data-[selected=true]:bg-[var(--hover)]">
      <span className="truncate">{text}</span>
      {note && <span className="quiet shrink-0 text-[13px]">{note}</span>}
    </Command.Item>
  );
}
