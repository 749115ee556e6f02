/** Who is here: a name for the record where all is open, else the account with what it leads to. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "react-router";

import { remove } from "../api/client";
import { sessionQuery } from "../api/queries";
import { useDismiss } from "../lib/dismiss";
import { setWho, who } from "../lib/who";

export function AccountMenu() {
  const session = useQuery(sessionQuery).data;
  if (!session) return null;
  return session.open ? <WhoField /> : <Menu name={session.name} role={session.role} />;
}

function Menu({ name, role }: { name: string; role: string }) {
  const [open, setOpen] = useState(false);
  const host = useRef<HTMLDivElement>(null);
  const client = useQueryClient();
  useDismiss(open, host, () => setOpen(false));
  const leads = role === "lead" || role === "admin";
  return (
    <div ref={host} className="relative">
      <button type="button" className="press press-quiet max-w-40" title={name} aria-expanded={open} aria-haspopup="menu" onClick={() => setOpen(!open)}>
        <span className="truncate">{name}</span>
      </button>
      {open && (
        <div role="menu" className="sheet absolute right-0 z-30 mt-1 flex w-52 flex-col rounded-md p-1.5 text-[14px] shadow-lg outline outline-[var(--line)]">
          <span className="quiet px-2.5 py-1 text-[13px]">signed in as {role}</span>
          {role !== "reader" && (
            <Link role="menuitem" className="rounded px-2.5 py-1.5 hover:bg-[var(--hover)]" to="/people" onClick={() => setOpen(false)}>
              {role === "admin" ? "Accounts and tokens" : "Tokens"}
            </Link>
          )}
          {leads && (
            <Link role="menuitem" className="rounded px-2.5 py-1.5 hover:bg-[var(--hover)]" to="/events" onClick={() => setOpen(false)}>
              What happened
            </Link>
          )}
          <button type="button" role="menuitem" className="rounded px-2.5 py-1.5 text-left hover:bg-[var(--hover)]" onClick={() => void remove("/session").then(() => client.resetQueries())}>
            Sign out
          </button>
        </div>
      )}
    </div>
  );
}

function WhoField() {
  const [name, setName] = useState(who());
  return (
    <input
      className="field w-32"
      aria-label="Your name"
      title="Nobody has to sign in here; the name stands beside what you change"
      placeholder="your name"
      value={name}
      onChange={(event) => {
        setName(event.target.value);
        setWho(event.target.value);
      }}
    />
  );
}
