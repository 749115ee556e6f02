/** What stands where content would: waiting, nothing yet, or a failure with what to do. */
import type { ReactNode } from "react";

import { ApiError } from "../api/client";

export function Waiting({ what }: { what: string }) {
  return (
    <p className="quiet px-[22px] py-10" role="status">
      Reading {what} …
    </p>
  );
}

export function Empty({ title, children, alone = false }: { title: string; children?: ReactNode; alone?: boolean }) {
  const Heading = alone ? "h1" : "h2";
  return (
    <div className="mx-auto max-w-xl px-6 py-16 text-center">
      <svg viewBox="0 0 120 40" width="150" height="50" aria-hidden="true" className="mx-auto mb-4">
        <path d="M45 32a15 15 0 0 1 30 0z" fill="none" stroke="var(--amber)" strokeWidth="1.5" strokeDasharray="2 3" />
        <path d="M5 32.5H115" stroke="var(--ink2)" strokeWidth="1.5" />
      </svg>
      <Heading className="mb-2 text-lg font-bold">{title}</Heading>
      <div className="quiet">{children}</div>
    </div>
  );
}

export function Failed({ error, again }: { error: Error; again?: () => void }) {
  const faults = error instanceof ApiError ? error.failure.faults : [];
  return (
    <div role="alert" className="m-[22px] max-w-3xl rounded-md border border-l-4 px-4 py-3" style={{ borderColor: "var(--rose)" }}>
      <p className="font-semibold">{error.message}</p>
      {faults.length > 1 && (
        <ul className="mt-2 list-disc pl-5 text-[13.5px]">
          {faults.map((fault) => (
            <li key={fault}>{fault}</li>
          ))}
        </ul>
      )}
      {again && (
        <button type="button" className="press mt-3" onClick={again}>
          Try again
        </button>
      )}
    </div>
  );
}
