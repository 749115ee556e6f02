/** Who may do what here: accounts with their roles, and tokens for programs. */
import { useQuery } from "@tanstack/react-query";

import { sessionQuery } from "../../api/queries";
import { Waiting } from "../../components/States";
import { Accounts } from "./Accounts";
import { Tokens } from "./Tokens";

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
