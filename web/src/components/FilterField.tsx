/** A filter that is typed into: what is typed shows at once, the address follows. */
import { type RefObject, useState } from "react";

type Props = { label: string; value: string; set: (value: string) => void; field: RefObject<HTMLInputElement | null>; width?: string };

export function FilterField({ label, value, set, field, width = "w-56" }: Props) {
  const [text, setText] = useState(value);
  const [typing, setTyping] = useState(false);
  return (
    <input
      ref={field}
      className={`field ${width}`}
      aria-label={label}
      placeholder="/ filter"
      value={typing ? text : value}
      onFocus={() => {
        setText(value);
        setTyping(true);
      }}
      onBlur={() => setTyping(false)}
      onChange={(event) => {
        setText(event.target.value);
        set(event.target.value);
      }}
      onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
    />
  );
}
