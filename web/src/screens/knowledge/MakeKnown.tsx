/** A library to be read through its package client. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { post } from "../../api/client";
import { useToast } from "../../components/Toasts";

export function MakeKnown() {
  const [name, setName] = useState("");
  const toast = useToast();
  const ask = useMutation({
    mutationFn: () => post<{ job: number }>("/knowledge", { coordinate: name.trim() }),
    onSuccess: () => {
      toast(`${name.trim()} is being read, every line of it. What uses it is scanned again afterwards.`);
      setName("");
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim()) ask.mutate();
      }}
    >
      <input aria-label="Library to look up" placeholder="pypi/, npm/ or maven/NAME" className="field w-52" value={name} onChange={(e) => setName(e.target.value)} />
      <button type="submit" className="press" disabled={!name.trim() || ask.isPending}>
        Look it up
      </button>
    </form>
  );
}
