/** A token to make; its secret is shown once. */
import { type FormEvent, useState } from "react";

import { post } from "../../api/client";
import type { NewToken } from "../../api/types";
import { useTold } from "../../components/useTold";

export function NewTokenForm({ made }: { made: (secret: string) => void }) {
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
