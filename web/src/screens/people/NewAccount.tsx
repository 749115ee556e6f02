/** An account to make. */
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { post } from "../../api/client";
import { accountsQuery } from "../../api/queries";
import type { Account } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { ROLES } from "./roles";
import { useTold } from "../../components/useTold";

export function NewAccount() {
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
