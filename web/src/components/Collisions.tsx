/** Fields that two people changed, inside the form of one of them: theirs is shown, saving keeps one's own. */
type Props<F extends string> = { fields: F[]; words: Record<F, string>; theirs: Record<F, string>; takeTheirs: (field: F) => void };

export function Collisions<F extends string>({ fields, words, theirs, takeTheirs }: Props<F>) {
  if (fields.length === 0) return null;
  return (
    <section aria-label="Changed by two" role="alert" className="rounded-md p-3 outline outline-[var(--rose)]">
      <p className="mb-1 font-semibold">Somebody else changed this meanwhile. Nothing of yours is lost.</p>
      {fields.map((field) => (
        <p key={field} className="flex items-baseline gap-2 py-1">
          <span className="quiet w-12 shrink-0">{words[field]}</span>
          <span className="min-w-0 grow break-words">theirs: {theirs[field] || "empty"}</span>
          <button type="button" className="press" onClick={() => takeTheirs(field)}>
            Take theirs
          </button>
        </p>
      ))}
      <p className="quiet">Saving keeps yours.</p>
    </section>
  );
}
