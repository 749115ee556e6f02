/** Tokens for programs: one's own, or everybody's. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { remove } from "../../api/client";
import { tokensQuery } from "../../api/queries";
import { Failed, Waiting } from "../../components/States";
import { day } from "../../lib/format";
import { NewTokenForm } from "./NewTokenForm";
import { useTold } from "../../components/useTold";

export function Tokens({ all }: { all: boolean }) {
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
