/** Who may do what here: accounts with their roles, and tokens for programs. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { ApiError, patch, post, remove } from "../../api/client";
import { accountsQuery, sessionQuery, tokensQuery } from "../../api/queries";
import type { Account, NewToken } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { day, plural } from "../../lib/format";

const ROLES: [string, string][] = [
  ["reader", "reads everything"],
  ["member", "works on steps and scans"],
  ["lead", "adds applications, waives, adopts paths"],
  ["admin", "makes accounts"],
];

export default function PeopleScreen() {
  const session = useQuery(sessionQuery).data;
  if (!session) return <Waiting what="who you are" />;
  return (
    <div className="page max-w-5xl pb-10">
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">{session.role === "admin" ? "Accounts and tokens" : "Tokens"}</h1>
      {session.role === "admin" && <Accounts />}
      <Tokens all={session.role === "admin"} />
    </div>
  );
}

function useTold() {
  const say = useToast();
  return (error: unknown) => say(error instanceof ApiError ? error.failure.problem : String(error), { bad: true });
}

function Accounts() {
  const query = useQuery(accountsQuery);
  const client = useQueryClient();
  const told = useTold();
  if (query.isPending) return <Waiting what="the accounts" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const change = (account: Account, body: object) =>
    patch<Account[]>(`/accounts/${account.id}`, body)
      .then((fresh) => client.setQueryData(accountsQuery.queryKey, fresh))
      .catch(told);
  return (
    <section aria-label="Accounts" className="mt-3">
      <p className="quiet mb-2 text-[14px]">{plural(query.data.length, "account")}. {ROLES.map(([role, can]) => `${role === "admin" ? "An" : "A"} ${role} ${can}`).join(". ")}. Each may also do what those before may.</p>
      <table className="w-full text-[14px]">
        <thead>
          <tr className="quiet border-b text-left hair">
            <th className="py-1 font-normal">name</th>
            <th className="font-normal">role</th>
            <th className="font-normal">signs in by</th>
            <th className="font-normal">since</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {query.data.map((account) => (
            <tr key={account.id} className="border-b hair">
              <td className={`max-w-60 truncate py-2 font-semibold ${account.disabled ? "line-through" : ""}`} title={account.name}>
                {account.name}
              </td>
              <td>
                <select className="field w-28" aria-label={`Role of ${account.name}`} value={account.role} onChange={(e) => void change(account, { role: e.target.value })}>
                  {ROLES.map(([role]) => (
                    <option key={role}>{role}</option>
                  ))}
                </select>
              </td>
              <td className="quiet">{account.by}</td>
              <td className="quiet">{day(account.made_at)}</td>
              <td className="text-right">
                <button type="button" className="press" onClick={() => void change(account, { disabled: !account.disabled })}>
                  {account.disabled ? "Enable" : "Disable"}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <NewAccount />
    </section>
  );
}

function NewAccount() {
  const [name, setName] = useState("");
  const [role, setRole] = useState("member");
  const [password, setPassword] = useState("");
  const client = useQueryClient();
  const say = useToast();
  const told = useTold();
  const make = (event: FormEvent) => {
    event.preventDefault();
    post<Account[]>("/accounts", { name, role, password })
      .then((fresh) => {
        client.setQueryData(accountsQuery.queryKey, fresh);
        say(`${name} can sign in now.`);
        setName("");
        setPassword("");
      })
      .catch(told);
  };
  return (
    <form onSubmit={make} className="mt-3 flex flex-wrap items-end gap-3 text-[14px]" aria-label="New account">
      <label>
        Name
        <input className="field mt-1 block w-44" required maxLength={80} autoComplete="off" value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      <label>
        Role
        <select className="field mt-1 block w-28" value={role} onChange={(e) => setRole(e.target.value)}>
          {ROLES.map(([value]) => (
            <option key={value}>{value}</option>
          ))}
        </select>
      </label>
      <label>
        First password
        <input className="field mt-1 block w-56" type="password" required minLength={10} autoComplete="new-password" value={password} onChange={(e) => setPassword(e.target.value)} />
      </label>
      <button type="submit" className="press press-main">
        Make account
      </button>
    </form>
  );
}

function Tokens({ all }: { all: boolean }) {
  const query = useQuery(tokensQuery);
  const [fresh, setFresh] = useState("");
  const client = useQueryClient();
  const told = useTold();
  const renew = () => client.invalidateQueries({ queryKey: tokensQuery.queryKey });
  if (query.isPending) return <Waiting what="the tokens" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  return (
    <section aria-label="Tokens" className="mt-8">
      <h2 className="text-[19px] font-bold">Tokens for programs</h2>
      <p className="quiet mb-2 text-[14px]">A build sends its token as “Authorization: Bearer …”. It may do what its scope says, within your role.</p>
      <NewTokenForm
        made={(secret) => {
          setFresh(secret);
          void renew();
        }}
      />
      {fresh && (
        <p role="status" className="sheet my-3 rounded-md p-3 text-[14px] outline outline-[var(--line)]">
          Copy it now; it is not shown again: <code className="break-all font-semibold">{fresh}</code>
        </p>
      )}
      {query.data.length === 0 && <p className="quiet mt-3 text-[14px]">There is no token yet.</p>}
      <ul className="mt-2 text-[14px]">
        {query.data.map((token) => (
          <li key={token.id} className="flex items-center gap-4 border-b py-1.5 hair">
            <b className={`w-48 truncate ${token.revoked ? "line-through" : ""}`} title={token.name}>
              {token.name}
            </b>
            <span className="quiet grow">
              {token.scope}
              {all ? ` · ${token.account}` : ""} · {token.revoked ? "revoked" : `until ${day(token.ends_at)}`}
            </span>
            {!token.revoked && (
              <button type="button" className="press" onClick={() => void remove(`/tokens/${token.id}`).then(renew).catch(told)}>
                Revoke
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function NewTokenForm({ made }: { made: (secret: string) => void }) {
  const [name, setName] = useState("");
  const [scope, setScope] = useState("scan");
  const [days, setDays] = useState("90");
  const told = useTold();
  const make = (event: FormEvent) => {
    event.preventDefault();
    post<NewToken>("/tokens", { name, scope, days: Number(days) })
      .then((token) => {
        setName("");
        made(token.secret);
      })
      .catch(told);
  };
  return (
    <form onSubmit={make} className="flex flex-wrap items-end gap-3 text-[14px]" aria-label="New token">
      <label>
        What it is for
        <input className="field mt-1 block w-56" required maxLength={80} placeholder="nightly build" value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      <label>
        Scope
        <select className="field mt-1 block w-44" value={scope} onChange={(e) => setScope(e.target.value)}>
          <option value="read">read</option>
          <option value="scan">read and ask for scans</option>
          <option value="write">all that I may</option>
        </select>
      </label>
      <label>
        Good for (days)
        <input className="field mt-1 block w-28" type="number" min={1} max={3660} required value={days} onChange={(e) => setDays(e.target.value)} />
      </label>
      <button type="submit" className="press press-main">
        Make token
      </button>
    </form>
  );
}
