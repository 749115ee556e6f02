/** Who are you? Signing in, and making the first account from the link that the first start prints. */
import { API } from "../../api/address";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";

import { ApiError, post } from "../../api/client";
import type { Session } from "../../api/types";

export function SignIn({ session }: { session: Session }) {
  const [params] = useSearchParams();
  const link = params.get("token") ?? "";
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState("");
  const client = useQueryClient();
  const go = useNavigate();
  const first = session.first && link !== "";
  const send = (event: FormEvent) => {
    event.preventDefault();
    setProblem("");
    const asked = first ? post("/session/first", { token: link, name, password }) : post("/session", { name, password });
    asked
      .then(() => client.resetQueries())
      .then(() => first && go("/", { replace: true }))
      .catch((error: unknown) => setProblem(error instanceof ApiError ? error.failure.problem : String(error)));
  };
  return (
    <main className="grid min-h-[calc(100vh-48px)] place-items-center p-6">
      <form onSubmit={send} className="sheet flex w-[22rem] max-w-full flex-col gap-4 rounded-lg p-7 outline outline-[var(--line)]">
        <h1 className="flex items-center gap-2 text-[21px] font-bold">
          <svg viewBox="0 0 16 16" width="26" height="26" aria-hidden="true">
            <path d="M4 11a4 4 0 0 1 8 0z" fill="var(--amber)" />
            <path d="M1 11.6H15" stroke="var(--ink)" strokeWidth="1.2" />
          </svg>
          {first ? "Make the first account" : "Sign in"}
        </h1>
        {session.first && !link && <p className="quiet text-[14px]">There is no account yet. Open the link that Yoake printed when it was started; it is good for an hour.</p>}
        {first && <p className="quiet text-[14px]">It is an administrator’s: it makes the other accounts.</p>}
        <label className="text-[14px]">
          Name
          <input className="field mt-1 w-full" autoComplete="username" required maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />
        </label>
        <label className="text-[14px]">
          Password
          <input className="field mt-1 w-full" type="password" autoComplete={first ? "new-password" : "current-password"} required minLength={first ? 10 : 1} value={password} onChange={(e) => setPassword(e.target.value)} />
        </label>
        {problem && (
          <p role="alert" className="text-[14px] text-[var(--rose-text)]">
            {problem}
          </p>
        )}
        <button type="submit" className="press press-main">
          {first ? "Make it and sign in" : "Sign in"}
        </button>
        {session.provider && (
          <a className="press text-center" href={`${API}/session/provider`}>
            Sign in with your organisation
          </a>
        )}
      </form>
    </main>
  );
}
