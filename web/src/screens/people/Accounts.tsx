/** Accounts with their roles. */
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { currentOf, patch } from "../../api/client";
import { accountsQuery } from "../../api/queries";
import type { Account } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { useCollision } from "../../components/useCollision";
import { day, plural } from "../../lib/format";
import { NewAccount } from "./NewAccount";
import { ROLES } from "./roles";
import { useTold } from "../../components/useTold";

type Change = { role: string } | { disabled: boolean };
const wordsOf = (change: Change) => ("role" in change ? change.role : change.disabled ? "disabled" : "enabled");

export function Accounts() {
  const query = useQuery(accountsQuery);
  const client = useQueryClient();
  const say = useToast();
  const told = useTold();
  const collision = useCollision();
  if (query.isPending) return <Waiting what="the accounts" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const send = (account: Account, change: Change, version: number) =>
    patch<Account[]>(`/accounts/${account.id}`, { ...change, version }).then((fresh) => {
      client.setQueryData(accountsQuery.queryKey, fresh);
      return fresh.find((a) => a.id === account.id);
    });
  const change = (account: Account, made: Change, version = account.version): Promise<void> =>
    send(account, made, version)
      .then((now) => {
        const before: Change = "role" in made ? { role: account.role } : { disabled: account.disabled };
        say(`${account.name}: ${wordsOf(made)}.`, { undo: () => void send(account, before, now?.version ?? version).catch(told) });
      })
      .catch((error: unknown) => {
        const current = currentOf<Account>(error);
        if (!current) return told(error);
        const theirs: Change = "role" in made ? { role: current.role } : { disabled: current.disabled };
        const untouched = "role" in made ? current.role === account.role : current.disabled === account.disabled;
        if (untouched) return change(current, made);
        collision.ask({ rows: [{ what: account.name, theirs: wordsOf(theirs), mine: wordsOf(made) }], keepMine: () => void change(current, made), keepTheirs: () => void query.refetch() });
      });
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
      {collision.dialog}
    </section>
  );
}
